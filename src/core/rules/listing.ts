import type { EntryKind } from "../source.js";

/** What the rows of a listing are ordered by. */
export const ORDERS = ["name", "kind", "size", "time"] as const;
export type Order = (typeof ORDERS)[number];

/** How a listing is asked for: the query of its address. */
export interface ListingRequest {
  readonly order: Order;
  readonly descending: boolean;
  /** From 1. */
  readonly page: number;
  /** Only names that contain this text, whatever its case and accents; "" is all. */
  readonly filter: string;
}

/** A row of a listing, as plain data. */
export interface ListingEntry {
  readonly name: string;
  readonly kind: EntryKind;
  /** Bytes; 0 for what is no file. */
  readonly sizeBytes: number;
  /** Milliseconds since the epoch; undefined when it cannot be known. */
  readonly modifiedMs: number | undefined;
  /** Undefined for what is no file. */
  readonly mediaType: string | undefined;
  /** Relative URL; undefined for a name that no URL reaches. */
  readonly href: string | undefined;
  /** The SHA-256 of a file's bytes, in base64url without padding, where digests were asked for. */
  readonly digest?: string;
}

/** A page of a listing, as plain data: what each rendering starts from. */
export interface Listing {
  /** The directory's path from the mount's root, decoded, with a slash at each end. */
  readonly path: string;
  readonly entries: readonly ListingEntry[];
  /** Entries on all pages. */
  readonly total: number;
  /** Entries of the directory: more than `total` if a filter leaves some out. */
  readonly totalInDirectory: number;
  readonly totalDirectories: number;
  readonly page: number;
  readonly pages: number;
  readonly pageSize: number;
  readonly request: ListingRequest;
  /** A list of digests can be asked for: `?digests`. */
  readonly offersDigests: boolean;
}

/** The forms a listing has; the first is a browser's. */
export const LISTING_FORMS = ["text/html", "application/json", "text/plain"] as const;
export type ListingForm = (typeof LISTING_FORMS)[number];

/** Renders a page of a listing in the form that was negotiated, or returns undefined to leave it to the library. */
export type ListingRenderer = (
  listing: Listing,
  form: ListingForm,
) => { readonly mediaType: string; readonly body: string } | undefined;

/** How a directory is listed, and how the page looks. Texts are plain text. */
export interface ListingRules {
  readonly order: Order;
  /** Rows on a page. */
  readonly pageSize: number;
  /** The mount's name, for the heading and the way up. */
  readonly title: string | undefined;
  readonly header: string | undefined;
  readonly footer: string | undefined;
  /** Address of a style sheet to load after the built-in one. */
  readonly styleSheet: string | undefined;
  /** Address of the page's icon; undefined for the built-in one. */
  readonly icon: string | undefined;
  /** Offers a field that filters the names of the whole directory. */
  readonly nameFilter: boolean;
  /** A rendering of the developer's own; undefined leaves that form to the library. */
  readonly render: ListingRenderer | undefined;
}

/** Patterns of what listings leave out. */
export interface NotListed {
  /** The rule that leaves a path out, in words; undefined when it is listed. */
  readonly by: (path: string) => string | undefined;
  readonly patterns: readonly string[];
}
