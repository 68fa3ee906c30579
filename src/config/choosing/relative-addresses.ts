import type { FileSource } from "../../core/source.js";
import { readPage } from "../../reading/pages/page.js";
import { findRelativeAddresses } from "../../reading/pages/references.js";
import { inSlices } from "../../reading/slices.js";

/** A longer document is not looked through, in bytes. */
const DOCUMENT_BYTES = 1024 * 1024;

/** The addresses in a document of a source that mean another place at each address that shows it; none if it cannot be read. */
export async function findRelativeIn(source: FileSource, path: string): Promise<string[]> {
  const found = await source.open(path);
  if (found.kind !== "file") return [];
  const { file } = found;
  try {
    const bytes = await file.read(0, Math.min(DOCUMENT_BYTES, file.metadata.sizeBytes));
    return findRelativeAddresses(await inSlices(readPage(new TextDecoder().decode(bytes), false)));
  } catch {
    return [];
  } finally {
    file.close();
  }
}

/** What is wrong with them, as part of a sentence. */
export function describeRelative(addresses: readonly string[]): string {
  const [first] = addresses;
  const more =
    addresses.length === 1
      ? ""
      : ` and ${addresses.length - 1} ${addresses.length === 2 ? "other" : "others"}`;
  return `names ${JSON.stringify(first)}${more} relative to each address it answers, so browsers look for them in the wrong folder at a deep link`;
}

/** The same, with what to do about them. `under` is where the application is, ending with a slash. */
export function adviseOnRelative(addresses: readonly string[], under: string): string {
  return `${describeRelative(addresses)}; write <base href="${under}"> into its head, or set the build's base to "${under}"`;
}
