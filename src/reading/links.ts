import { removeSpans } from "../core/text/spans.js";
import { readJson } from "./json.js";

// An import at the beginning of a statement, or a call of one with a text; nothing else is taken for a reference.
const IMPORTS =
  /(?:^|[;}\n])[ \t]*(?:import|export)\b[^;"'`()]{0,2000}?\bfrom\s*["']([^"'\n]+)["']|(?:^|[;}\n])[ \t]*import\s*["']([^"'\n]+)["']|\bimport\s*\(\s*["']([^"'\n]+)["']\s*\)|\bnew URL\(\s*["']([^"'\n]+)["']\s*,\s*import\.meta\.url\s*\)/g;

/** The files that a script imports by address, as it writes them (ECMAScript §16.2.2); names of packages are none. */
export function extractScriptLinks(script: string): string[] {
  return extractImports(script).filter((written) => /^\.{0,2}\//.test(written));
}

/** All that a script imports, as it writes it: addresses, and names that an import map has to explain. */
export function extractImports(script: string): string[] {
  if (!/\bimport\b|\bexport\b/.test(script)) return [];
  const text = removeSpans(script, "/*", "*/", " ").replace(/^[ \t]*\/\/[^\n]*/gm, " ");
  return [...text.matchAll(IMPORTS)].map((match) => match.slice(1).find((one) => one !== undefined)!);
}

/** A name of a module in an import map, and the address it stands for. */
export interface ImportRow {
  readonly name: string;
  readonly address: string;
}

/** What an import map says (HTML §8.1.6.2): the rows of `imports`, and those of all `scopes`. */
export function readImportMap(json: string): ImportRow[] {
  const read = readJson(json);
  if (!read.ok || typeof read.value !== "object" || read.value === null) return [];
  const { imports, scopes } = read.value as { imports?: unknown; scopes?: unknown };
  const tables = [imports, ...Object.values(scopes ?? {})];
  return tables
    .flatMap((table) => Object.entries(table ?? {}))
    .flatMap(([name, address]) => (typeof address === "string" ? [{ name, address }] : []));
}

/** The addresses in an application manifest, as it writes them: its icons, pictures, start and shortcuts. */
export function extractManifestLinks(json: string): string[] {
  const links: string[] = [];
  const visit = (value: unknown): void => {
    if (Array.isArray(value)) for (const one of value) visit(one);
    else if (typeof value === "object" && value !== null)
      for (const [key, one] of Object.entries(value)) {
        if (!/^(?:src|start_url|url)$/.test(key) || typeof one !== "string") visit(one);
        else links.push(one);
      }
  };
  // What is no JSON names nothing.
  const read = readJson(json);
  if (read.ok) visit(read.value);
  return links;
}

/** How many addresses may stand in a sitemap (sitemaps.org protocol). */
const SITEMAP_AT_MOST = 50_000;

/** The addresses in a sitemap, as it writes them. */
export function extractSitemapLinks(xml: string): string[] {
  const links: string[] = [];
  for (const [, written] of xml.matchAll(/<loc>([^<]{1,2048})<\/loc>/g)) {
    if (links.length >= SITEMAP_AT_MOST) break;
    links.push(written!.trim().replaceAll("&amp;", "&"));
  }
  return links;
}

/** Where a script or a page starts a worker from (HTML §10.2.6). */
const WORKERS = /\bnew\s+(?:Shared)?Worker\(\s*(?:new\s+URL\(\s*)?["'`]([^"'`\s]{1,500})["'`]/g;

/** The scripts of the workers that a script starts, as it writes them. */
export function extractWorkers(script: string): string[] {
  return [...script.matchAll(WORKERS)].map(([, written]) => written!);
}

/** Where a comment, a text, an address or an import of a style sheet begins. */
const STYLE_TOKEN = /\/\*|["']|(?<![\w-])url\(|@import(?=[\s"'])/gi;

/** The addresses that a style sheet names, as it writes them (CSS Values §4.5, CSS Cascade §2), in one pass over its text. */
export function extractStyleLinks(css: string): string[] {
  const links: string[] = [];
  const token = new RegExp(STYLE_TOKEN);
  for (let match = token.exec(css); match !== null; match = token.exec(css)) {
    const { text, end } = readToken(css, match[0].toLowerCase(), token.lastIndex);
    token.lastIndex = end;
    if (text !== undefined && !/^\s*#/.test(text)) links.push(text);
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
