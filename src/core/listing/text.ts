import type { Listing, ListingRules } from "../rules/listing.js";
import { showName } from "../text/printable.js";
import { formatListingQuery } from "./query.js";

/** Renders a page of a listing for a terminal: a name a line, a slash behind a directory's, and at the end how to get more. */
export function renderListingText(listing: Listing, { order }: Pick<ListingRules, "order">): string {
  const { entries, total, page, pages, pageSize, request } = listing;
  const names = entries.map(({ name, kind }) => `${showName(name)}${kind === "directory" ? "/" : ""}\n`);
  const left = total - (page - 1) * pageSize - entries.length;
  // No name has two slashes.
  const more = `// ${left} more: ./${formatListingQuery({ ...request, page: page + 1 }, order)}\n`;
  return names.join("") + (page < pages ? more : "");
}
