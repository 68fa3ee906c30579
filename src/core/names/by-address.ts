import { isDocument, withoutCompanion } from "../rules/names.js";
import { FolderShapes, isPlainlyFingerprinted } from "./shapes.js";

/**
 * Tells the fingerprinted among addresses of one site, from the addresses alone: by what lies in the same folder, or beyond doubt. Queries
 * do not count.
 */
export function judgeAddresses(addresses: Iterable<string>): (address: string) => boolean {
  const folders = new Map<string, Set<string>>();
  for (const address of addresses) {
    const [folder, name] = split(address);
    const names = folders.get(folder);
    if (isDocument(name)) continue;
    if (names === undefined) folders.set(folder, new Set([name]));
    else names.add(name);
  }
  const shapes = new Map([...folders].map(([folder, names]) => [folder, new FolderShapes([...names])]));
  return (address) => {
    const [folder, name] = split(withoutCompanion(address.replace(/[?#].*$/s, "")));
    if (isDocument(name)) return false;
    return isPlainlyFingerprinted(name) || shapes.get(folder)?.find(name) !== undefined;
  };
}

function split(address: string): [folder: string, name: string] {
  const path = address.replace(/[?#].*$/s, "");
  const slash = path.lastIndexOf("/");
  return [path.slice(0, slash + 1), path.slice(slash + 1)];
}
