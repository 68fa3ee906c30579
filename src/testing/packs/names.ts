/** The ready-made packs, with what each looks at. */
export const PACKS_IN_WORDS = {
  types: "media types, charsets and nosniff, held against names and contents",
  conditional: "validators, and what is answered to who holds a copy (RFC 9110 §13)",
  ranges: "parts of a file, for players and resumed downloads (RFC 9110 §14)",
  codings: "compression: what is offered, what is said about it (RFC 9110 §8.4, §12.5.3)",
  head: "HEAD sends what GET would, without the body (RFC 9110 §9.3.2)",
  caching: "how long copies are kept, by what names promise (RFC 9111)",
  "app-shell": "deep links get the application, missing scripts do not",
  "path-safety": "addresses that try to leave the folder or the site; harmless to ask",
  exposure: "common things that should not be reachable",
} as const;

export type PackName = keyof typeof PACKS_IN_WORDS;
export const PACK_NAMES = Object.keys(PACKS_IN_WORDS) as [PackName, ...PackName[]];
