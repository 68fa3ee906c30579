import { chooseMediaType } from "../fields/accept.js";
import { Fields } from "../fields/fields.js";
import type { Store } from "../memory/store.js";
import { fieldValue, type SiteRequest } from "../request/request.js";
import { encodeUtf8 } from "../text/utf8.js";
import type { Refusal } from "./plan.js";

/** The reason phrases and the visitor's sentence of each status the library answers with (RFC 9110 §15). */
const WORDS: Readonly<Record<number, readonly [title: string, sentence: string]>> = {
  400: ["Bad Request", "This address is not valid. The link may be incomplete."],
  403: ["Forbidden", "There is no page to show at this address."],
  404: ["Not Found", "There is nothing at this address."],
  405: ["Method Not Allowed", "This address can only be read."],
  410: ["Gone", "This page is gone for good."],
  412: ["Precondition Failed", "The page has changed in the meantime."],
  416: ["Range Not Satisfiable", "The file ends before the range you asked for."],
  500: ["Internal Server Error", "Something is broken here. Please try again later."],
  503: ["Service Unavailable", "The server is busy. Please try again in a moment."],
};

/** What is said instead where the bytes on disk are not the sealed ones: trying again does not help. */
const ALTERED = "This file has changed since the site was published. It is not sent.";

/** The style sheet of every built-in page: the beam, and what hangs from it. */
export const STYLE = `
:root{color-scheme:light dark;--paper:#fbfaf6;--ink:#1c2326;--quiet:#566168;--sea:#0b5563}
@media(prefers-color-scheme:dark){:root{--paper:#12181a;--ink:#e6e9e7;--quiet:#9aa7ab;--sea:#7cc4d0}}
body{margin:0;padding:18vh 1.5rem 3rem;background:var(--paper);color:var(--ink);font:1.0625rem/1.6 system-ui,sans-serif}
main{max-width:42rem;margin:0 auto}
h1{margin:0;padding-bottom:.9rem;border-bottom:6px solid var(--sea);font-size:1.75rem;line-height:1.2;display:flex;gap:1.25rem}
b{color:var(--sea)}
p{margin:1.4rem 0 0;color:var(--quiet)}
a{color:var(--sea)}
`;

/** SHA-256 of STYLE for the policy below, in base64; a test compares it with the text. */
export const STYLE_DIGEST = "6xoNraeUkFQ6lcp7zYvPYQjnlRUYA4bfWLZcir2Q7ME=";

/** The policy of built-in pages: nothing runs, nothing is fetched, nobody frames it. */
const POLICY = `default-src 'none'; style-src 'sha256-${STYLE_DIGEST}'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'`;

/** Fields and bytes of a built-in body. */
export interface BuiltInPage {
  readonly fields: Fields;
  readonly bytes: Uint8Array;
}

/** Built-in bodies by status and form. */
export type BuiltInPages = Store<string, BuiltInPage>;

type Form = "text/plain" | "text/html" | "application/problem+json";

// A client that takes JSON takes problem details, which are JSON (RFC 9457 §3).
const OFFERED = ["text/plain", "text/html", "application/problem+json", "application/json"] as const;

/** The built-in body for a refusal, in the form the client wants: HTML, problem details (RFC 9457) or plain text. */
export function chooseBuiltInPage(
  pages: BuiltInPages,
  { target, headers, strippedPrefix }: SiteRequest,
  { status, reason }: Refusal,
): BuiltInPage {
  const wanted = chooseMediaType(fieldValue(headers, "accept"), OFFERED) ?? "text/plain";
  const type = wanted === "application/json" ? "application/problem+json" : wanted;
  const isAltered = reason.code === "not-sealed";
  // The front page has no link to itself.
  const isFront = target === "/" && strippedPrefix === undefined;
  const key = `${status} ${type} ${isAltered} ${isFront}`;
  let page = pages.get(key);
  if (page === undefined) {
    const [title, sentence] = WORDS[status] ?? ["Error", "This request could not be answered."];
    page = makePage(type, writers[type](status, title, isAltered ? ALTERED : sentence, isFront));
    pages.set(key, page);
  }
  return page;
}

function makePage(type: Form, text: string): BuiltInPage {
  const bytes = encodeUtf8(text);
  const contentType = type === "application/problem+json" ? type : `${type}; charset=utf-8`;
  const fields = Fields.of(
    ["Content-Type", contentType, "the built-in body in the form that Accept prefers"],
    ["Content-Length", String(bytes.length), "its length"],
    ["Cache-Control", "no-cache", "an error is revalidated each time"],
    ["Vary", "Accept", "the form was negotiated"],
  );
  return {
    fields:
      type === "text/html"
        ? fields.append("Content-Security-Policy", POLICY, "built-in pages run no scripts")
        : fields,
    bytes,
  };
}

type Writer = (status: number, title: string, sentence: string, isFront: boolean) => string;

const writers: Readonly<Record<Form, Writer>> = {
  "text/plain": (status, title, sentence) => `${status} ${title}\n${sentence}\n`,
  "application/problem+json": (status, title, sentence) =>
    `${JSON.stringify({ type: "about:blank", title, status, detail: sentence })}\n`,
  "text/html": (status, title, sentence, isFront) => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${status} ${title}</title>
<style>${STYLE}</style>
</head>
<body>
<main>
<h1><b>${status}</b> ${title}</h1>
<p>${sentence}</p>
${isFront ? "" : '<p><a href="/">Go to the front page</a></p>\n'}</main>
</body>
</html>
`,
};
