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
  const references = names.references
    .map(({ url, fragment, written, element, width }) =>
      [url, fragment, written.replace(/[\u0001\u0002]/g, " "), element, width ?? ""].join(FIELD),
    )
    .join(END);
  return { ...others, names: { ...names, references } };
}

/** Gives what was packed. */
export function unpackNotes({ names, ...others }: PackedNotes): FileNotes {
  if (names === undefined) return others;
  const references = names.references === "" ? [] : names.references.split(END).map(unpackReference);
  return { ...others, names: { ...names, references } };
}

function unpackReference(packed: string): Reference {
  const [url, fragment, written, element, width] = packed.split(FIELD);
  return {
    url: url!,
    fragment: fragment!,
    written: written!,
    element: element!,
    width: width === "" ? undefined : Number(width),
  };
}
