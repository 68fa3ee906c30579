import type { Reference } from "../../reading/pages/references.js";
import type { FileNotes } from "./notes.js";

/** Ends a field, and a reference: no address has such characters (URL Standard §4.4), and what is written keeps none of its own. */
const [FIELD, END] = ["\u0001", "\u0002"];

/** Notes as they go from one thread to another: thousands of references in one string cost as much as ten objects. */
export interface PackedNotes extends Pick<FileNotes, "suspicion" | "picture"> {
  readonly names?: Omit<NonNullable<FileNotes["names"]>, "references"> & { readonly references: string };
}

/** Packs the references of a file. */
export function packNotes({ names, ...others }: FileNotes): PackedNotes {
  if (names === undefined) return others;
  let references = "";
  for (const { url, fragment, written, element, width } of names.references)
    references += `${element}${FIELD}${url}${FIELD}${fragment}${FIELD}${width ?? ""}${FIELD}${clean(written)}${END}`;
  return { ...others, names: { ...names, references } };
}

const clean = (written: string): string =>
  written.includes(FIELD) || written.includes(END) ? written.replace(/[\u0001\u0002]/g, " ") : written;

/** Gives what was packed. */
export function unpackNotes({ names, ...others }: PackedNotes): FileNotes {
  if (names === undefined) return others;
  const references: Reference[] = [];
  const packed = names.references;
  for (let start = 0; start < packed.length; ) {
    const url = packed.indexOf(FIELD, start) + 1;
    const fragment = packed.indexOf(FIELD, url) + 1;
    const width = packed.indexOf(FIELD, fragment) + 1;
    const written = packed.indexOf(FIELD, width) + 1;
    const end = packed.indexOf(END, written);
    references.push({
      element: packed.slice(start, url - 1),
      url: packed.slice(url, fragment - 1),
      fragment: packed.slice(fragment, width - 1),
      width: written - 1 === width ? undefined : Number(packed.slice(width, written - 1)),
      written: packed.slice(written, end),
    });
    start = end + 1;
  }
  return { ...others, names: { ...names, references } };
}
