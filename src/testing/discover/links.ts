import { removeSpans } from "../../core/text/spans.js";
import { readJson } from "../../reading/json.js";
import { resolveAddress } from "../../reading/pages/references.js";

// An import at the beginning of a statement, or a call of one with a text; nothing else is taken for a reference.
const IMPORTS =
  /(?:^|[;}\n])[ \t]*(?:import|export)\b[^;"'`()]{0,2000}?\bfrom\s*["']([^"'\n]+)["']|(?:^|[;}\n])[ \t]*import\s*["']([^"'\n]+)["']|\bimport\s*\(\s*["']([^"'\n]+)["']\s*\)|\bnew URL\(\s*["']([^"'\n]+)["']\s*,\s*import\.meta\.url\s*\)/g;

/** The files that a module imports by address (ECMAScript §16.2.2); names of packages are none. */
export function extractScriptLinks(script: string, base: string): string[] {
  const text = removeSpans(script, "/*", "*/", " ").replace(/^[ \t]*\/\/[^\n]*/gm, " ");
  return [...text.matchAll(IMPORTS)].flatMap((match) => {
    const written = match.slice(1).find((one) => one !== undefined)!;
    const url = /^\.{0,2}\//.test(written) ? resolveAddress(written, base) : undefined;
    return url === undefined ? [] : [url];
  });
}

/** The addresses in an application manifest: its icons, pictures, start and shortcuts. */
export function extractManifestLinks(json: string, base: string): string[] {
  const links: string[] = [];
  const visit = (value: unknown): void => {
    if (Array.isArray(value)) for (const one of value) visit(one);
    else if (typeof value === "object" && value !== null)
      for (const [key, one] of Object.entries(value)) {
        if (!/^(?:src|start_url|url)$/.test(key) || typeof one !== "string") visit(one);
        else links.push(...[resolveAddress(one, base)].filter((url) => url !== undefined));
      }
  };
  // What is no JSON names nothing.
  const read = readJson(json);
  if (read.ok) visit(read.value);
  return links;
}

/** Where a comment, a text, an address or an import of a style sheet begins. */
const STYLE_TOKEN = /\/\*|["']|(?<![\w-])url\(|@import(?=[\s"'])/gi;

/** The addresses that a style sheet names (CSS Values §4.5, CSS Cascade §2), in one pass over its text. */
export function extractStyleLinks(css: string, base: string): string[] {
  const links: string[] = [];
  const token = new RegExp(STYLE_TOKEN);
  for (let match = token.exec(css); match !== null; match = token.exec(css)) {
    const { text, end } = readToken(css, match[0].toLowerCase(), token.lastIndex);
    token.lastIndex = end;
    const link = text === undefined ? undefined : resolveAddress(text, base);
    if (link !== undefined) links.push(link);
  }
  return links;
}

/** What a piece of a style sheet names, and where to read on. */
interface Piece {
  readonly text: string | undefined;
  readonly end: number;
}

function readToken(css: string, token: string, from: number): Piece {
  const start = skipBlanks(css, from);
  switch (token) {
    case "/*": {
      const end = css.indexOf("*/", from);
      return { text: undefined, end: end < 0 ? css.length : end + 2 };
    }
    case "url(": {
      const { text, end } = isQuote(css[start]) ? readString(css, start) : readBare(css, start);
      const close = skipBlanks(css, end);
      return { text: css[close] === ")" ? text : undefined, end: close };
    }
    case "@import":
      return isQuote(css[start]) ? readString(css, start) : { text: undefined, end: start };
    default:
      return { text: undefined, end: readString(css, from - 1).end };
  }
}

const isQuote = (text: string | undefined): boolean => text === '"' || text === "'";

// CSS Syntax §4.3.5: a text ends with its quote; without one it is broken, and ends with its line.
function readString(css: string, start: number): Piece {
  let at = start + 1;
  while (at < css.length && css[at] !== "\n") {
    if (css[at] === css[start]) return { text: css.slice(start + 1, at), end: at + 1 };
    at += css[at] === "\\" ? 2 : 1;
  }
  return { text: undefined, end: Math.min(at, css.length) };
}

function readBare(css: string, start: number): Piece {
  let at = start;
  while (at < css.length && !/[)"'\s]/.test(css[at]!)) at++;
  return { text: css.slice(start, at), end: at };
}

function skipBlanks(text: string, from: number): number {
  let at = from;
  while (/\s/.test(text[at] ?? "")) at++;
  return at;
}
