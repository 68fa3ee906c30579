/** The ready-made packs, with what each looks at. */
export const PACKS_IN_WORDS = {
  framing: "messages end where they say, and their lines can be read (RFC 9112); over the network",
  missing: "answers for missing addresses: 404, its own page, no redirect, nothing private",
  links: "the links of pages, style sheets, scripts and manifests work; folders redirect to their slash",
  moved: "moved addresses lead to new ones that answer; gone ones say so (RFC 9110 §15)",
  methods: "writing methods are refused; they are sent only to this machine, or with --methods",
  types: "media types, charsets and nosniff, compared with names and contents",
  conditional: "validators, and answers to clients with a copy (RFC 9110 §13)",
  ranges: "ranges, for players and resumed downloads (RFC 9110 §14)",
  codings: "compression, and the fields about it (RFC 9110 §8.4, §12.5.3)",
  variants:
    "pictures in several formats and pages in several languages: a usable one for everybody (RFC 9110 §12)",
  head: "HEAD sends what GET would, without the body (RFC 9110 §9.3.2)",
  caching: "how long copies stay fresh, as the names promise (RFC 9111)",
  "app-shell": "deep links get the app shell, missing scripts do not",
  "path-safety": "addresses that try to leave the folder or the site; harmless to ask",
  exposure: "common files that should not be reachable",
  content: "files are complete, in their charset, and match their type",
  listings: "listings: what they show, and whether their links work",
  protected:
    "pages have a policy that works and does not block them, and the other security fields (CSP Level 3)",
  delivery: "other origins, policies and downloads (CORS, CSP)",
} as const;

/** The name of a ready-made pack. */
export type PackName = keyof typeof PACKS_IN_WORDS;
/** The names of all ready-made packs. */
export const PACK_NAMES = Object.keys(PACKS_IN_WORDS) as [PackName, ...PackName[]];
