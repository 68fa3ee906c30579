import { decodeHTMLAttribute } from "entities/decode";

/** Attributes that name something, or that something can be named by; elements with none of these are passed over. */
const WANTED: ReadonlySet<string> = new Set([
  ..."action as background content data formaction height href http-equiv id imagesrcset media name ping poster rel sizes src srcset".split(
    " ",
  ),
  ..."style type usemap width xlink:href".split(" "),
]);

/** Thrown where a page has to be read by the standard's parser. */
export class Unsure extends Error {}

/** A tag as it was read. */
export interface Tag {
  readonly name: string;
  readonly attributes: Map<string, string> | undefined;
  readonly isClosed: boolean;
  /** Where the text goes on. */
  readonly end: number;
}

/**
 * Reads a tag (HTML §13.2.5.8) from its name on, and puts its attributes into a map that is emptied first; without a map they are passed over.
 * Undefined where the page ends in it.
 */
export function readTag(text: string, from: number, into: Map<string, string> | undefined): Tag | undefined {
  const { length } = text;
  let at = from;
  let seen = 0;
  for (let kind = kindOf(text.charCodeAt(at)); kind < ENDS_NAME; kind = kindOf(text.charCodeAt(at))) {
    seen |= kind;
    if (++at >= length) return undefined;
  }
  const name = nameOf(text.slice(from, at), seen);
  let attributes: Map<string, string> | undefined;
  let isClosed = false;
  for (;;) {
    let kind = kindOf(text.charCodeAt(at));
    while (kind === BLANK) kind = kindOf(text.charCodeAt(++at));
    if (at >= length) return undefined;
    if (kind === CLOSE) break;
    isClosed = kind === SLASH;
    if (isClosed) {
      at++;
      continue;
    }
    if (kind === EQUALS) throw new Unsure();
    const begin = at;
    for (seen = 0; kind < ENDS_ATTRIBUTE; kind = kindOf(text.charCodeAt(at))) {
      seen |= kind;
      if (++at >= length) return undefined;
    }
    const end = at;
    while (kind === BLANK) kind = kindOf(text.charCodeAt(++at));
    let [start, to] = [at, at];
    if (kind === EQUALS) {
      do kind = kindOf(text.charCodeAt(++at));
      while (kind === BLANK);
      const isQuoted = kind === QUOTE;
      start = isQuoted ? at + 1 : at;
      to = findValueEnd(text, at, isQuoted);
      if (to < 0) return undefined;
      at = isQuoted ? to + 1 : to;
    }
    if (into === undefined) continue;
    const attribute = nameOf(text.slice(begin, end), seen);
    if (attribute === "srcdoc") throw new Unsure();
    if (!WANTED.has(attribute)) continue;
    if (attributes === undefined) {
      attributes = into;
      attributes.clear();
    }
    // The first one counts.
    if (!attributes.has(attribute)) attributes.set(attribute, decodeValue(text.slice(start, to)));
  }
  return { name, attributes, isClosed, end: at + 1 };
}

/** Where a value ends; below 0 where the page ends in it. */
function findValueEnd(text: string, at: number, isQuoted: boolean): number {
  if (isQuoted) return text.indexOf(text[at]!, at + 1);
  let end = at;
  for (let kind = kindOf(text.charCodeAt(at)); kind !== BLANK && kind !== CLOSE; ) {
    if (++end >= text.length) return -1;
    kind = kindOf(text.charCodeAt(end));
  }
  return end;
}

// What a character is in a tag, by how much it ends.
const [CAPITAL, QUOTE, OPEN, ENDS_ATTRIBUTE, EQUALS, ENDS_NAME, SLASH, BLANK, CLOSE] = [
  1, 2, 4, 8, 8, 16, 16, 17, 18,
];
const KINDS = new Uint8Array(128);
for (let code = 0x41; code <= 0x5a; code++) KINDS[code] = CAPITAL;
for (const [characters, kind] of [
  ["\"'", QUOTE],
  ["<", OPEN],
  ["=", EQUALS],
  ["/", SLASH],
  [" \n\t\r\f", BLANK],
  [">", CLOSE],
] as const)
  for (const one of characters) KINDS[one.charCodeAt(0)] = kind;

const kindOf = (code: number): number => (code < 128 ? KINDS[code]! : 0);
export const isLetter = (code: number): boolean => (code | 0x20) >= 0x61 && (code | 0x20) <= 0x7a;
export const isBlank = (code: number): boolean => kindOf(code) === BLANK;

/** True where a tag is its name alone. */
export function endsInName(text: string, from: number, close: number): boolean {
  for (let at = from; at < close; at++) if (kindOf(text.charCodeAt(at)) > CAPITAL) return false;
  return true;
}

/** A name in lower case. With a quote or a bracket in it, somebody forgot another one before. */
function nameOf(written: string, seen: number): string {
  if ((seen & (QUOTE | OPEN)) !== 0) throw new Unsure();
  return (seen & CAPITAL) === 0 ? written : written.toLowerCase();
}

/** The text of an attribute (HTML §13.2.5.72), with its line ends (§13.2.3.5). */
function decodeValue(value: string): string {
  const text = value.includes("\r") ? value.replace(/\r\n?/g, "\n") : value;
  return text.includes("&") ? decodeHTMLAttribute(text) : text;
}
