import { unescapeText } from "../../core/text/unescape.js";
import { isDocument, withoutCompanion } from "./named-after.js";
import { FolderShapes, findPlainToken } from "./shapes.js";
import type { Token } from "./token.js";

/** The fingerprinted among addresses of one site, as the addresses alone tell: by what lies in the same folder, or beyond doubt. */
export class AddressNames {
  readonly #folders = new Map<string, FolderShapes>();

  constructor(addresses: Iterable<string>) {
    const folders = new Map<string, Set<string>>();
    for (const address of addresses) {
      const [folder, name] = split(address);
      if (isDocument(name)) continue;
      const names = folders.get(folder);
      if (names === undefined) folders.set(folder, new Set([name]));
      else names.add(name);
    }
    for (const [folder, names] of folders) this.#folders.set(folder, new FolderShapes([...names]));
  }

  /** True for a fingerprinted one. Queries do not count. */
  has(address: string): boolean {
    return this.#find(address) !== undefined;
  }

  /** A fingerprinted address with a star in the place of the digest, without its first slash; undefined for another. */
  patternOf(address: string): string | undefined {
    const token = this.#find(address);
    if (token === undefined) return undefined;
    const [folder, name] = split(address);
    const at = name.lastIndexOf(token.text);
    const pattern = `${folder}\0${name.slice(0, at)}\0${name.slice(at + token.text.length)}`;
    return unescapeText(pattern.replace(/^\//, ""))
      .replace(/[*?[\]{}()!+@|\\]/g, "\\$&")
      .replace(/\0([^\0]*)\0/, "$1*");
  }

  #find(address: string): Token | undefined {
    const [folder, name] = split(withoutCompanion(address.replace(/[?#].*$/s, "")));
    if (isDocument(name)) return undefined;
    return this.#folders.get(folder)?.findToken(name) ?? findPlainToken(name);
  }
}

function split(address: string): [folder: string, name: string] {
  const path = address.replace(/[?#].*$/s, "");
  const slash = path.lastIndexOf("/");
  return [path.slice(0, slash + 1), path.slice(slash + 1)];
}
