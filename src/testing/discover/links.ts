import { Parser } from "htmlparser2";

/** Attributes that hold an address, by element. */
const ADDRESSES: Readonly<Record<string, readonly string[]>> = {
  a: ["href"],
  area: ["href"],
  audio: ["src"],
  embed: ["src"],
  iframe: ["src"],
  img: ["src"],
  link: ["href"],
  object: ["data"],
  script: ["src"],
  source: ["src"],
  track: ["src"],
  video: ["src", "poster"],
};

/** The addresses that a document names, as it writes them, resolved against `base`, an absolute address. */
export function extractLinks(html: string, base: string): string[] {
  const links: string[] = [];
  let from = base;
  const parser = new Parser({
    onopentag(name, attributes) {
      if (name === "base" && attributes.href !== undefined) from = resolve(attributes.href, base) ?? from;
      for (const attribute of ADDRESSES[name] ?? []) {
        const written = attributes[attribute];
        const link = written === undefined ? undefined : resolve(written, from);
        if (link !== undefined) links.push(link);
      }
      for (const candidate of attributes.srcset?.split(",") ?? []) {
        const link = resolve(candidate.trim().split(/\s/)[0]!, from);
        if (link !== undefined) links.push(link);
      }
    },
  });
  parser.end(html);
  return links;
}

/** The addresses that a style sheet names (CSS Values §4.5), in one pass over its text. */
export function extractStyleLinks(css: string, base: string): string[] {
  const links: string[] = [];
  for (let at = css.indexOf("url("); at >= 0; at = css.indexOf("url(", at)) {
    const start = skipBlanks(css, at + "url(".length);
    const quote = css[start] === '"' || css[start] === "'" ? css[start]! : undefined;
    const from = quote === undefined ? start : start + 1;
    const end = quote === undefined ? findEnd(css, from) : css.indexOf(quote, from);
    at = start;
    if (end < 0) continue;
    const close = skipBlanks(css, quote === undefined ? end : end + 1);
    const link = css[close] === ")" ? resolve(css.slice(from, end), base) : undefined;
    if (link !== undefined) links.push(link);
    at = close;
  }
  return links;
}

function skipBlanks(text: string, from: number): number {
  let at = from;
  while (/\s/.test(text[at] ?? "")) at++;
  return at;
}

function findEnd(text: string, from: number): number {
  let at = from;
  while (at < text.length && !/[)"'\s]/.test(text[at]!)) at++;
  return at;
}

function resolve(written: string, base: string): string | undefined {
  const text = written.trim();
  if (text === "" || text.startsWith("#") || !URL.canParse(text, base)) return undefined;
  const url = new URL(text, base);
  url.hash = "";
  return /^https?:$/.test(url.protocol) ? url.href : undefined;
}
