/**
 * What an entry of a directory is. `broken`: a link that leads nowhere, or not where it may; `special`: a pipe, socket or device;
 * `unreadable`: there, and this process has no permission to read it.
 */
export type EntryKind = "directory" | "file" | "broken" | "special" | "unreadable";

/** An entry as a source tells of it, without opening it. */
export interface SourceEntry {
  readonly name: string;
  /** Undefined for a symbolic link: what it leads to is known only with its metadata. */
  readonly kind: EntryKind | undefined;
}

/** What a source knows of an entry when asked for it by itself. */
export interface EntryMetadata {
  readonly kind: EntryKind;
  readonly sizeBytes: number;
  /** Nanoseconds since 1970-01-01T00:00:00Z. */
  readonly modifiedNs: bigint;
  /** Where a symbolic link leads inside the source, for a link. */
  readonly realPath?: string | undefined;
}

/** What the rows of a listing are ordered by. */
export const ORDERS = ["name", "kind", "size", "time"] as const;
export type Order = (typeof ORDERS)[number];

/** How a listing is asked for: the query of its address. */
export interface ListingRequest {
  readonly order: Order;
  readonly descending: boolean;
  /** From 1. */
  readonly page: number;
}

/** Reads the query of a listing's address. What it does not know, or cannot be, is left at its default. */
export function parseListingQuery(query: string, fallback: Order): ListingRequest {
  const values = new Map<string, string>();
  for (const pair of query.slice(1).split("&")) {
    const [name, value = ""] = pair.split("=");
    values.set(name!, value);
  }
  const order = ORDERS.find((one) => one === values.get("order")) ?? fallback;
  const page = /^[1-9]\d{0,8}$/.test(values.get("page") ?? "") ? Number(values.get("page")) : 1;
  return { order, descending: values.has("descending"), page };
}

/** Writes the query for a listing; empty for the first page in the default order. */
export function formatListingQuery({ order, descending, page }: ListingRequest, fallback: Order): string {
  const parts = [
    ...(order === fallback ? [] : [`order=${order}`]),
    ...(descending ? ["descending"] : []),
    ...(page === 1 ? [] : [`page=${page}`]),
  ];
  return parts.length === 0 ? "" : `?${parts.join("&")}`;
}
