import type { Listing } from "../rules/listing.js";
import { showName } from "../text/printable.js";

/** Renders a page of a listing for a terminal: a name a line, and a slash behind a directory's. */
export function renderListingText({ entries }: Listing): string {
  return entries.map(({ name, kind }) => `${showName(name)}${kind === "directory" ? "/" : ""}\n`).join("");
}
