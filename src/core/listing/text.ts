import type { Listing } from "../rules/listing.js";

/** Renders a page of a listing for a terminal: a name a line, and a slash behind a directory's. */
export function renderListingText({ entries }: Listing): string {
  return entries
    .map(({ name, kind }) => `${name.replace(/[\r\n]/g, "?")}${kind === "directory" ? "/" : ""}\n`)
    .join("");
}
