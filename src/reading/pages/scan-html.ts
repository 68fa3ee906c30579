import type { PageElement } from "./element.js";
import { endsInName, isBlank, isLetter, readTag, type Tag, Unsure } from "./read-tag.js";

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

class Scanner {
  readonly #text: string;
  readonly #look: (element: PageElement) => void;
  readonly #attributes = new Map<string, string>();
  readonly #element: Seen = { name: "", attributes: NONE, text: "", isInHead: false, inner: undefined };
  #at = 0;
  #tables = 0;
  /** What is open of a drawing, from `svg` on. */
  readonly #drawn: string[] = [];
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

  /** False at the end of the page. An unclosed tag does not count. */
  #readStart(): boolean {
    const tag = this.#readTag(this.#attributes);
    if (tag === undefined) return false;
    const { name, attributes } = tag;
    const role = ROLES.get(name);
    const isOpened = role === "drawing" && !tag.isClosed;
    if (isOpened || this.#drawn.length > 0) {
      if (!tag.isClosed) this.#drawn.push(name);
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
    if (!endsInName(text, this.#at, close)) return this.#readEndWith(open);
    if (this.#drawn.length > 0 || TELLING_ENDS.includes(first))
      this.#close(text.slice(this.#at, close).toLowerCase(), open);
    this.#at = close + 1;
    return true;
  }

  #readEndWith(open: number): boolean {
    const tag = this.#readTag(undefined);
    if (tag !== undefined) this.#close(tag.name, open);
    return tag !== undefined;
  }

  #close(name: string, open: number): void {
    if (this.#drawn.length > 0) {
      const at = this.#drawn.lastIndexOf(name);
      // HTML §13.2.6.5: it closes something around the drawing.
      if (at < 0) throw new Unsure();
      this.#drawn.length = at;
    } else if (name === "table") {
      if (this.#tables > 0) this.#tables--;
    } else if (name === "noscript" && this.#noscriptEnd >= 0) {
      // Where scripts run it ends at the first end tag, whatever that stands in.
      if (open !== this.#noscriptEnd) throw new Unsure();
      this.#noscriptEnd = -1;
    }
  }

  #readTag(attributes: Map<string, string> | undefined): Tag | undefined {
    const tag = readTag(this.#text, this.#at, attributes);
    if (tag !== undefined) this.#at = tag.end;
    return tag;
  }

  // HTML §13.2.5.42 to §13.2.5.53: a comment, a document type, or what is taken for a comment.
  #readDeclaration(): void {
    const text = this.#text;
    if (!text.startsWith("!--", this.#at)) {
      if (this.#drawn.length > 0) throw new Unsure();
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
