/** Where a case is asked. */
export const ONLY = ["in process", "over the network"] as const;

/** A further question about the same resource, as written. */
export type FollowUpWritten =
  | "revisit"
  | "head"
  | "range"
  | "coding"
  | { readonly range: string }
  | { readonly coding: FollowUpCoding | FollowUpCoding[] };

type FollowUpCoding = "br" | "gzip" | "deflate" | "zstd";
