import { Parser } from "htmlparser2";
import type { FileSource } from "../core/source.js";

/** A longer document is not looked through, in bytes. */
const DOCUMENT_BYTES = 1024 * 1024;

/** What a document loads, by element: addresses that must lead to the same place from wherever the document is shown. */
const LOADED: Readonly<Record<string, string>> = {
  script: "src",
  link: "href",
  img: "src",
};

/**
 * The addresses in a document that mean another place at each address the document answers: those that are relative, where no
 * `base` element says to what. A single-page application's document must have none.
 */
export function findRelativeAddresses(html: string): string[] {
  const found: string[] = [];
  let hasBase = false;
  const parser = new Parser({
    onopentag(name, attributes) {
      if (name === "base" && isAbsolute(attributes.href ?? "")) hasBase = true;
      const written = attributes[LOADED[name] ?? ""]?.trim();
      if (written !== undefined && written !== "" && !written.startsWith("#") && !isAbsolute(written))
        found.push(written);
    },
  });
  parser.end(html);
  return hasBase ? [] : found;
}

/** The same for a file of a source; none where it cannot be read. */
export async function findRelativeIn(source: FileSource, path: string): Promise<string[]> {
  const found = await source.open(path);
  if (found.kind !== "file") return [];
  const { file } = found;
  try {
    const bytes = await file.read(0, Math.min(DOCUMENT_BYTES, file.metadata.sizeBytes));
    return findRelativeAddresses(new TextDecoder().decode(bytes));
  } catch {
    return [];
  } finally {
    file.close();
  }
}

// RFC 3986 §4.2: a reference with a scheme, or one that begins with a slash.
function isAbsolute(address: string): boolean {
  return address.startsWith("/") || /^[a-z][a-z0-9+.-]*:/i.test(address);
}

/** What to do about them. `under` is where the application is, ending with a slash. */
export function adviseOnRelative(addresses: readonly string[], under: string): string {
  const [first] = addresses;
  const more =
    addresses.length === 1
      ? ""
      : ` and ${addresses.length - 1} ${addresses.length === 2 ? "other" : "others"}`;
  return `names ${JSON.stringify(first)}${more} relative to each address it answers, so browsers look for them in the wrong folder at a deep link; write <base href="${under}"> into its head, or set the build's base to "${under}"`;
}
