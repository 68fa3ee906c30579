import type { Listing, ListingRules } from "../rules/listing.js";
import { formatListingQuery } from "./query.js";

/** Renders a page of a listing for programs; `schema/listing.json` describes the shape. */
export function renderListingJson(listing: Listing, rules: Pick<ListingRules, "order">): string {
  const { path, total, page, pages, request, entries } = listing;
  const next =
    page < pages ? `./${formatListingQuery({ ...request, page: page + 1 }, rules.order)}` : undefined;
  const shape = {
    path,
    total,
    page,
    pages,
    order: request.order,
    descending: request.descending,
    next,
    entries: entries.map(({ name, kind, sizeBytes, modifiedMs, mediaType, href }) => ({
      name,
      kind,
      size: kind === "file" ? sizeBytes : undefined,
      modified: modifiedMs === undefined ? undefined : new Date(modifiedMs).toISOString(),
      mediaType,
      href,
    })),
  };
  return `${JSON.stringify(shape, null, 2)}\n`;
}
