import type { KnownDirectory } from "./directory.js";
import { STEP } from "./directory.js";
import type { Pause } from "./order.js";

const ASCII = /^[\x00-\x7f]*$/;

/** A name as a filter compares it: case and accents tell nothing apart. `LISTING_SCRIPT` does the same. */
export function foldLetters(name: string): string {
  if (ASCII.test(name)) return name.toLowerCase();
  return name
    .normalize("NFKD")
    .replace(/[\u0300-\u036f]/g, "")
    .toLowerCase();
}

/** The names of a directory that contain a text. Their orders are not kept: anybody may ask for any text. */
export async function filterNames(
  directory: KnownDirectory,
  text: string,
  pause: Pause,
): Promise<KnownDirectory> {
  const wanted = foldLetters(text);
  const entries: KnownDirectory["entries"][number][] = [];
  for (const [index, entry] of directory.entries.entries()) {
    if (index % STEP === STEP - 1) await pause();
    if (foldLetters(entry.name).includes(wanted)) entries.push(entry);
  }
  return { ...directory, entries, orders: new Map() };
}
