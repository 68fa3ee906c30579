/** The ready-made packs, with what each looks at. */
export const PACKS_IN_WORDS = {
  framing: "messages end where they say, and their lines can be read (RFC 9112); over the network",
  missing: "what is said where nothing is: 404, a page of its own, no redirect, nothing private",
  links: "what pages, style sheets, scripts and manifests name is there; folders lead to their slash",
  moved: "addresses that moved lead to new ones that answer, and what is gone says so (RFC 9110 §15)",
  methods:
    "what is not for reading is refused; methods that write go to this machine only, or with --methods",
  types: "media types, charsets and nosniff, held against names and contents",
  conditional: "validators, and what is answered to who holds a copy (RFC 9110 §13)",
  ranges: "parts of a file, for players and resumed downloads (RFC 9110 §14)",
  codings: "compression: what is offered, what is said about it (RFC 9110 §8.4, §12.5.3)",
  variants:
    "pictures in several formats and pages in several languages: a usable one for everybody (RFC 9110 §12)",
  head: "HEAD sends what GET would, without the body (RFC 9110 §9.3.2)",
  caching: "how long copies are kept, by what names promise (RFC 9111)",
  "app-shell": "deep links get the application, missing scripts do not",
  "path-safety": "addresses that try to leave the folder or the site; harmless to ask",
  exposure: "common things that should not be reachable",
  content: "files are whole, in their charset, and what their type says",
  listings: "lists of folders: what they show, and whether they lead to it",
  protected:
    "pages with a policy that holds and does not stop them, and the other protective fields (CSP Level 3)",
  delivery: "who may read it, and what the browser is told to do with it (CORS, policies, downloads)",
} as const;

export type PackName = keyof typeof PACKS_IN_WORDS;
export const PACK_NAMES = Object.keys(PACKS_IN_WORDS) as [PackName, ...PackName[]];
