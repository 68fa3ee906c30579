import { formatSha256 } from "../fields/digest-fields.js";
import type { Listing, ListingRules } from "../rules/listing.js";
import { formatListingQuery } from "./query.js";

/** Renders a page of a listing for programs; `schema/listing.json` describes the shape. */
export function renderListingJson(listing: Listing, rules: Pick<ListingRules, "order">): string {
  const { path, total, totalInDirectory, page, pages, request, entries } = listing;
  const next =
    page < pages ? `./${formatListingQuery({ ...request, page: page + 1 }, rules.order)}` : undefined;
  const isDigested = entries.some(({ digest }) => digest !== undefined);
  const shape = {
    path,
    total,
    ...(request.filter !== "" && { filter: request.filter, totalInDirectory }),
    page,
    pages,
    order: request.order,
    descending: request.descending,
    next: isDigested ? next?.replace("?", "?digests&") : next,
    entries: entries.map(({ name, kind, sizeBytes, modifiedMs, mediaType, href, digest }) => ({
      name,
      kind,
      size: kind === "file" ? sizeBytes : undefined,
      modified: modifiedMs === undefined ? undefined : new Date(modifiedMs).toISOString(),
      mediaType,
      href,
      digest: digest === undefined ? undefined : formatSha256(digest),
    })),
  };
  return `${JSON.stringify(shape, null, 2)}\n`;
}
