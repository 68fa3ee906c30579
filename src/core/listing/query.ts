import { type ListingRequest, type ListingRules, ORDERS, type Order } from "../rules/listing.js";

/** Reads the query of a listing's address. What it does not know, or cannot be, is left at its default. */
export function parseListingQuery(
  query: string,
  { order: fallback, nameFilter }: Pick<ListingRules, "order" | "nameFilter">,
): ListingRequest {
  const values = new Map<string, string>();
  for (const pair of query.slice(1).split("&")) {
    const [name, value = ""] = pair.split("=");
    values.set(name!, value);
  }
  const order = ORDERS.find((one) => one === values.get("order")) ?? fallback;
  const page = /^[1-9]\d{0,8}$/.test(values.get("page") ?? "") ? Number(values.get("page")) : 1;
  const filter = nameFilter ? readText(values.get("filter") ?? "").trim() : "";
  return { order, descending: values.has("descending"), page, filter };
}

// As a form writes it: a plus is a blank.
function readText(value: string): string {
  try {
    return decodeURIComponent(value.replaceAll("+", " "));
  } catch {
    return "";
  }
}

/** True when a listing's address asks for the digests of the files. */
export function asksForDigests(query: string): boolean {
  return query
    .slice(1)
    .split("&")
    .some((pair) => /^digests(?:=|$)/.test(pair));
}

/** Writes the query for a listing; empty for the first page in the default order. */
export function formatListingQuery(
  { order, descending, page, filter }: ListingRequest,
  fallback: Order,
): string {
  const parts = [
    ...(filter === "" ? [] : [`filter=${encodeURIComponent(filter.toWellFormed())}`]),
    ...(order === fallback ? [] : [`order=${order}`]),
    ...(descending ? ["descending"] : []),
    ...(page === 1 ? [] : [`page=${page}`]),
  ];
  return parts.length === 0 ? "" : `?${parts.join("&")}`;
}
