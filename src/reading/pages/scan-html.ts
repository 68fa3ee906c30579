import { decodeHTMLAttribute } from "entities/decode";
import type { PageElement } from "./element.js";

/** Attributes that name something, or that something can be named by; elements with none of these are passed over. */
const WANTED: ReadonlySet<string> = new Set([
  ..."action as background content data formaction height href http-equiv id imagesrcset media name ping poster rel sizes src srcset".split(
    " ",
  ),
  ..."style type usemap width xlink:href".split(" "),
]);

/** What stands in a drawing without ending it, or beginning something else there (HTML §13.2.6.5). */
const IN_DRAWING = new Set(
  (
    "a animate animatemotion animatetransform circle clippath defs ellipse feblend fecolormatrix fecomposite fedropshadow feflood " +
    "fegaussianblur feimage femerge femergenode feoffset filter g image line lineargradient marker mask metadata mpath path pattern " +
    "polygon polyline radialgradient rect set stop style svg switch symbol text textpath tspan use view title desc"
  ).split(" "),
);

/** How an element is read that is not like most. */
type Role = "raw" | "unsure" | "part of a table" | "table" | "body" | "drawing" | "noscript";

const ROLES: ReadonlyMap<string, Role> = new Map<string, Role>([
  // Its content is text to its end tag (HTML §13.2.6).
  ..."script style title textarea iframe".split(" ").map((name) => [name, "raw"] as const),
  // It means something else where it stands, or ends the page's own rules.
  ..."plaintext frameset frame math image noframes noembed xmp"
    .split(" ")
    .map((name) => [name, "unsure"] as const),
  // Nothing is made of it outside a table (HTML §13.2.6.4.7).
  ..."caption col colgroup tbody td tfoot th thead tr"
    .split(" ")
    .map((name) => [name, "part of a table"] as const),
  ["table", "table"],
  ["body", "body"],
  ["svg", "drawing"],
  ["noscript", "noscript"],
]);

/** How the names begin whose end tags say something: svg, table, noscript. */
const TELLING_ENDS = [0x73, 0x74, 0x6e];

/** Thrown where a page has to be read by the standard's parser. */
class Unsure extends Error {}

/**
 * Gives the elements of a page that name something, or can be named: as the standard's parser finds them, in a tenth of its time, for pages
 * whose markup can mean one thing only. False for every other page, after some of its elements were given. An element is to be looked at
 * when it is given: it becomes the next one. What is in `noscript` is read as where there are no scripts.
 */
export function scanHtml(text: string, look: (element: PageElement) => void): boolean {
  if (text.includes("\0")) return false;
  try {
    new Scanner(text, look).read();
    return true;
  } catch (error) {
    if (error instanceof Unsure) return false;
    throw error;
  }
}

/** The one element that is given again and again. */
type Seen = { -readonly [Key in keyof PageElement]: PageElement[Key] };

const NONE: ReadonlyMap<string, string> = new Map();

/** A start tag as it was read. */
interface Tag {
  readonly name: string;
  readonly attributes: Map<string, string> | undefined;
  readonly isClosed: boolean;
}

class Scanner {
  readonly #text: string;
  readonly #look: (element: PageElement) => void;
  readonly #attributes = new Map<string, string>();
  readonly #element: Seen = { name: "", attributes: NONE, text: "", isInHead: false, inner: undefined };
  #at = 0;
  #tables = 0;
  #drawings = 0;
  #bodies = 0;
  /** Where a browser with scripts sees the end of a `noscript`; -1 outside one. */
  #noscriptEnd = -1;

  constructor(text: string, look: (element: PageElement) => void) {
    this.#text = text;
    this.#look = look;
  }

  read(): void {
    const text = this.#text;
    for (;;) {
      const open = text.indexOf("<", this.#at);
      if (open < 0 || open + 1 >= text.length) {
        this.#end();
        return;
      }
      this.#at = open + 1;
      const code = text.charCodeAt(open + 1);
      if (isLetter(code)) {
        if (!this.#readStart()) {
          this.#end();
          return;
        }
      } else if (code === 0x2f) {
        if (!this.#readEnd()) {
          this.#end();
          return;
        }
      } else if (code === 0x21) this.#readDeclaration();
      else if (code === 0x3f) this.#skipPast(">");
    }
  }

  #end(): void {
    if (this.#noscriptEnd >= 0) throw new Unsure();
  }

  /** False at the end of the page: a tag that is not closed is none. */
  #readStart(): boolean {
    const tag = this.#readTag(true);
    if (tag === undefined) return false;
    const { name, attributes } = tag;
    const role = ROLES.get(name);
    if (role === "drawing" && !tag.isClosed) this.#drawings++;
    if (this.#drawings > 0) {
      this.#readDrawn(tag);
      return true;
    }
    if (role !== undefined) this.#judge(role);
    const content = role === "raw" ? this.#readRaw(name) : "";
    if (attributes !== undefined || content !== "") this.#keep(name, attributes, content);
    return true;
  }

  #keep(name: string, attributes: ReadonlyMap<string, string> | undefined, text: string): void {
    const element = this.#element;
    element.name = name;
    element.attributes = attributes ?? NONE;
    element.text = text;
    this.#look(element);
  }

  // What would be dropped, moved or merged is not decided here.
  #judge(role: Role): void {
    if (role === "unsure" || (role === "part of a table" && this.#tables === 0)) throw new Unsure();
    if (role === "table") this.#tables++;
    if (role === "body" && ++this.#bodies > 1) throw new Unsure();
    if (role === "noscript") {
      if (this.#noscriptEnd >= 0) throw new Unsure();
      this.#noscriptEnd = this.#findEndOf("noscript");
    }
  }

  // CDATA, pages inside and scripts make a drawing unsure; a title or style that is only text is the same in both readings.
  #readDrawn({ name, attributes, isClosed }: Tag): void {
    if (!IN_DRAWING.has(name)) throw new Unsure();
    if (/^(?:title|desc|style)$/.test(name) && !isClosed) {
      const open = this.#text.indexOf("<", this.#at);
      if (open < 0 || !this.#text.startsWith(`</${name}`, open)) throw new Unsure();
    }
    if (attributes !== undefined) this.#keep(`svg:${name === "feimage" ? "feImage" : name}`, attributes, "");
  }

  /** The content of a script or a style; "" of others, where it says nothing. */
  #readRaw(name: string): string {
    const start = this.#at;
    this.#at = this.#findEndOf(name);
    if (name !== "script" && name !== "style") return "";
    const content = this.#text.slice(start, this.#at);
    // HTML §13.2.5.17: a script in a comment in a script.
    if (name === "script" && content.includes("<!--") && /<script/i.test(content)) throw new Unsure();
    return content;
  }

  #findEndOf(name: string): number {
    const text = this.#text;
    for (let at = text.indexOf("</", this.#at); at >= 0; at = text.indexOf("</", at + 2)) {
      const after = text.charCodeAt(at + 2 + name.length);
      const isName = text.slice(at + 2, at + 2 + name.length).toLowerCase() === name;
      if (isName && (isBlank(after) || after === 0x2f || after === 0x3e)) return at;
    }
    // Without an end tag the rest of the page is its content: one that browsers recover from in other ways is theirs.
    throw new Unsure();
  }

  #readEnd(): boolean {
    const text = this.#text;
    const open = this.#at - 1;
    if (!isLetter(text.charCodeAt(++this.#at))) {
      this.#skipPast(">");
      return true;
    }
    // Most end tags are their name alone, and say nothing here.
    const close = text.indexOf(">", this.#at);
    if (close < 0) return false;
    const first = text.charCodeAt(this.#at) | 0x20;
    for (let at = this.#at; at < close; at++)
      if (kindOf(text.charCodeAt(at)) > CAPITAL) return this.#readEndWith(open);
    if (this.#drawings > 0 || TELLING_ENDS.includes(first))
      this.#close(text.slice(this.#at, close).toLowerCase(), open);
    this.#at = close + 1;
    return true;
  }

  #readEndWith(open: number): boolean {
    const tag = this.#readTag(false);
    if (tag !== undefined) this.#close(tag.name, open);
    return tag !== undefined;
  }

  #close(name: string, open: number): void {
    if (this.#drawings > 0) {
      if (name === "svg") this.#drawings--;
      else if (!IN_DRAWING.has(name)) throw new Unsure();
    } else if (name === "table") {
      if (this.#tables > 0) this.#tables--;
    } else if (name === "noscript" && this.#noscriptEnd >= 0) {
      // Where scripts run it ends at the first end tag, whatever that stands in.
      if (open !== this.#noscriptEnd) throw new Unsure();
      this.#noscriptEnd = -1;
    }
  }

  /** Reads a tag from its name on. Undefined where the page ends in it. */
  #readTag(isStart: boolean): Tag | undefined {
    const text = this.#text;
    const { length } = text;
    let at = this.#at;
    let seen = 0;
    for (let kind = kindOf(text.charCodeAt(at)); kind < ENDS_NAME; kind = kindOf(text.charCodeAt(at))) {
      seen |= kind;
      if (++at >= length) return undefined;
    }
    const name = nameOf(text.slice(this.#at, at), seen);
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
      let [from, to] = [at, at];
      if (kind === EQUALS) {
        do kind = kindOf(text.charCodeAt(++at));
        while (kind === BLANK);
        const isQuoted = kind === QUOTE;
        from = isQuoted ? at + 1 : at;
        to = this.#findValueEnd(at, isQuoted);
        if (to < 0) return undefined;
        at = isQuoted ? to + 1 : to;
      }
      if (!isStart) continue;
      const attribute = nameOf(text.slice(begin, end), seen);
      if (attribute === "srcdoc") throw new Unsure();
      if (!WANTED.has(attribute)) continue;
      if (attributes === undefined) {
        attributes = this.#attributes;
        attributes.clear();
      }
      // The first one counts.
      if (!attributes.has(attribute)) attributes.set(attribute, decodeValue(text.slice(from, to)));
    }
    this.#at = at + 1;
    return { name, attributes, isClosed };
  }

  /** Where a value ends; below 0 where the page ends in it. */
  #findValueEnd(at: number, isQuoted: boolean): number {
    const text = this.#text;
    if (isQuoted) return text.indexOf(text[at]!, at + 1);
    let end = at;
    for (let kind = kindOf(text.charCodeAt(at)); kind !== BLANK && kind !== CLOSE; ) {
      if (++end >= text.length) return -1;
      kind = kindOf(text.charCodeAt(end));
    }
    return end;
  }

  // HTML §13.2.5.42 to §13.2.5.53: a comment, a document type, or what is taken for a comment.
  #readDeclaration(): void {
    const text = this.#text;
    if (!text.startsWith("!--", this.#at)) {
      if (this.#drawings > 0) throw new Unsure();
      this.#skipPast(">");
      return;
    }
    const from = this.#at + 3;
    const end = text.indexOf("-->", from);
    if (text.startsWith(">", from) || text.startsWith("->", from)) {
      this.#at = from + 1;
      return;
    }
    if (end >= 0 && text.slice(from, end).includes("--!>")) throw new Unsure();
    if (end < 0 && text.includes("--!>", from)) throw new Unsure();
    this.#at = end < 0 ? text.length : end + 3;
  }

  #skipPast(mark: string): void {
    const end = this.#text.indexOf(mark, this.#at);
    this.#at = end < 0 ? this.#text.length : end + 1;
  }
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
const isLetter = (code: number): boolean => (code | 0x20) >= 0x61 && (code | 0x20) <= 0x7a;
const isBlank = (code: number): boolean => kindOf(code) === BLANK;

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
