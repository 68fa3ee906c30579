import { Parser } from "htmlparser2";
import type { Directive, PageNeeds } from "../core/rules/protect.js";

/** A policy that is longer does not pass every proxy, in characters. */
const LONGEST = 6000;
/** Pages inside pages are read so deep: each level is a page's worth of work more. */
const DEEPEST = 3;
const SITE = "http://site.invalid/";

/** Attributes that load, by element: what loads by them. `link` depends on its rel. */
const LOADS: Readonly<Record<string, readonly (readonly [attribute: string, directive: Directive])[]>> = {
  script: [["src", "script-src"]],
  img: [
    ["src", "img-src"],
    ["srcset", "img-src"],
  ],
  image: [
    ["href", "img-src"],
    ["xlink:href", "img-src"],
  ],
  input: [
    ["src", "img-src"],
    ["formaction", "form-action"],
  ],
  audio: [["src", "media-src"]],
  video: [
    ["src", "media-src"],
    ["poster", "img-src"],
  ],
  source: [
    ["src", "media-src"],
    ["srcset", "img-src"],
  ],
  track: [["src", "media-src"]],
  iframe: [["src", "frame-src"]],
  frame: [["src", "frame-src"]],
  object: [["data", "object-src"]],
  embed: [["src", "object-src"]],
  form: [["action", "form-action"]],
  button: [["formaction", "form-action"]],
  base: [["href", "base-uri"]],
};
const BY_REL: Readonly<Record<string, Directive>> = {
  stylesheet: "style-src",
  modulepreload: "script-src",
  icon: "img-src",
  "apple-touch-icon": "img-src",
  manifest: "manifest-src",
};
const BY_AS: Readonly<Record<string, Directive>> = {
  script: "script-src",
  style: "style-src",
  image: "img-src",
  font: "font-src",
  audio: "media-src",
  video: "media-src",
  fetch: "connect-src",
};

/**
 * What a page needs of its policy: the digests of its own scripts and styles, and the addresses on other hosts that it names. Reads
 * what is in the page; what scripts load later nobody can read off it.
 */
export async function readPageNeeds(text: string, isXml: boolean): Promise<PageNeeds> {
  const page = readPage(text, isXml);
  const texts = listTexts(page);
  const digests = await Promise.all(texts.map(digest));
  return toNeeds(page, new Map(texts.map((one, index) => [one, digests[index]!])));
}

/** What is in a page: the first step of `readPageNeeds`, for callers with their own way to digests. */
export function readPage(text: string, isXml: boolean): Page {
  const page = new Page();
  page.read(text, isXml);
  return page;
}

/** The texts of a page that a policy names by their digests. */
export function listTexts({ scripts, styles, handlers, styleAttributes }: Page): string[] {
  return [...scripts, ...styles, ...handlers, ...styleAttributes];
}

/** The last step: from what is in a page, and the digests of its texts as a policy writes them. */
export function toNeeds(page: Page, digests: ReadonlyMap<string, string>): PageNeeds {
  const sources = new Map<Directive, string[]>();
  let length = 0;
  // What does not fit is left out as a whole: a policy that is cut off would stop the page at random.
  const add = (directive: Directive, list: readonly string[], what: string): void => {
    const more = list.reduce((sum, one) => sum + one.length + 1, 0);
    if (length + more > LONGEST) {
      page.problems.add(
        `it has ${list.length} different ${what}, and a policy that lists each would be too long; put them into files of the site`,
      );
      return;
    }
    length += more;
    sources.set(directive, [...new Set([...(sources.get(directive) ?? []), ...list])]);
  };
  const addTexts = (directive: Directive, texts: ReadonlySet<string>, what: string): void => {
    const named = [...texts].map((text) => digests.get(text)!);
    if (named.length > 0) add(directive, named, what);
  };
  for (const [directive, list] of page.sources) add(directive, [...list], `addresses for ${directive}`);
  addTexts("script-src", page.scripts, "scripts");
  addTexts("style-src", page.styles, "styles");
  // CSP3 §8.3: a digest counts for an attribute only beside this word.
  for (const [directive, texts, what] of [
    ["script-src", page.handlers, "handlers"],
    ["style-src", page.styleAttributes, "style attributes"],
  ] as const) {
    if (texts.size === 0) continue;
    const before = page.problems.size;
    addTexts(directive, texts, what);
    if (page.problems.size === before) add(directive, ["'unsafe-hashes'"], what);
  }
  return { sources, problems: [...page.problems] };
}

async function digest(text: string): Promise<string> {
  const bytes = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
  let binary = "";
  for (const byte of new Uint8Array(bytes)) binary += String.fromCharCode(byte);
  return `'sha256-${btoa(binary)}'`;
}

/** What was read of a page, and of the pages inside it. */
export class Page {
  readonly sources = new Map<Directive, Set<string>>();
  readonly scripts = new Set<string>();
  readonly styles = new Set<string>();
  readonly handlers = new Set<string>();
  readonly styleAttributes = new Set<string>();
  readonly problems = new Set<string>();
  #base = SITE;

  read(text: string, isXml: boolean, depth = 0): void {
    let inside: { readonly into: Set<string>; text: string } | undefined;
    const parser = new Parser(
      {
        onopentag: (name, attributes) => {
          this.#look(name, attributes, depth);
          if (name === "style") inside = { into: this.styles, text: "" };
          if (name === "script" && attributes.src === undefined && runs(attributes.type))
            inside = { into: this.scripts, text: "" };
        },
        ontext: (part) => {
          if (inside !== undefined) inside.text += part;
        },
        onclosetag: (name) => {
          if (inside === undefined || (name !== "style" && name !== "script")) return;
          if (inside.text.trim() !== "") inside.into.add(inside.text);
          inside = undefined;
        },
      },
      { xmlMode: isXml },
    );
    // HTML §13.2.3.5: line ends are one kind before anything is read.
    parser.end(text.replace(/^\ufeff/, "").replace(/\r\n?/g, "\n"));
  }

  #look(name: string, attributes: Readonly<Record<string, string>>, depth: number): void {
    if (name === "base" && this.#base === SITE && URL.canParse(attributes.href ?? "", SITE))
      this.#base = new URL(attributes.href!, SITE).href;
    for (const [attribute, directive] of LOADS[name] ?? [])
      this.#add(attributes[attribute], attribute, directive);
    if (name === "link") this.#lookAtLink(attributes);
    if (name === "iframe" && attributes.srcdoc !== undefined) {
      if (depth < DEEPEST) this.read(attributes.srcdoc, false, depth + 1);
      else this.problems.add(`it has pages inside pages, more than ${DEEPEST} deep; put them into files`);
    }
    for (const [attribute, value] of Object.entries(attributes)) {
      if (attribute === "style" && value.trim() !== "") this.styleAttributes.add(value);
      if (/^on[a-z]+$/i.test(attribute) && value.trim() !== "") this.handlers.add(value);
      if (
        /^(?:href|src|action|formaction|data|xlink:href)$/.test(attribute) &&
        /^\s*javascript:/i.test(value)
      )
        this.problems.add(
          `a javascript: address (${JSON.stringify(value.trim().slice(0, 40))}) never runs under a policy; use a button and a script`,
        );
    }
  }

  #lookAtLink({ rel = "", as = "", href }: Readonly<Record<string, string>>): void {
    for (const word of rel.toLowerCase().split(/\s+/)) {
      const directive = word === "preload" ? BY_AS[as.toLowerCase()] : BY_REL[word];
      if (directive !== undefined) this.#add(href, "href", directive);
    }
  }

  #add(written: string | undefined, attribute: string, directive: Directive): void {
    if (written === undefined || written.trim() === "") return;
    const addresses =
      attribute === "srcset"
        ? written.split(/,\s+|\s+[\d.]+[wx]\s*,?\s*/).filter((one) => one.trim() !== "")
        : [written];
    for (const address of addresses) {
      const source = this.#sourceOf(address.trim(), directive);
      if (source !== undefined) this.#put(directive, source);
    }
  }

  #put(directive: Directive, source: string): void {
    const known = this.sources.get(directive) ?? new Set();
    this.sources.set(directive, known.add(source));
  }

  // Scripts are named by their whole address: a host may have others.
  #sourceOf(address: string, directive: Directive): string | undefined {
    if (!URL.canParse(address, this.#base)) return undefined;
    const url = new URL(address, this.#base);
    if (url.protocol === "data:" || url.protocol === "blob:")
      return directive === "img-src" || directive === "font-src" ? undefined : url.protocol;
    if (!/^https?:$/.test(url.protocol)) return undefined;
    if (url.host === "site.invalid") return directive === "object-src" ? "'self'" : undefined;
    // CSP3 §2.3.1: a policy names hosts of letters, digits and dashes. Another one could end its directive, or allow every host.
    if (!/^[a-z\d-]+(?:\.[a-z\d-]+)*(?::\d+)?$/.test(url.host)) {
      this.problems.add(
        `it names the host ${JSON.stringify(url.host.slice(0, 40))}, which no policy can allow; use another host`,
      );
      return undefined;
    }
    const host = address.startsWith("//") ? url.host : url.origin;
    const isExact = directive === "script-src" || directive === "style-src";
    return isExact ? host + escapeSource(url.pathname) : host;
  }
}

// CSP3 §2.3.1: these separate sources and directives.
const escapeSource = (path: string): string => path.replaceAll(";", "%3B").replaceAll(",", "%2C");

/** HTML §4.12.1: what a script element runs, or what tells modules where they are. */
function runs(type: string | undefined): boolean {
  if (type === undefined || type.trim() === "") return true;
  return /^(?:module|importmap|speculationrules|(?:text|application)\/(?:x-)?(?:java|ecma)script|text\/javascript1\.[0-5]|text\/jscript|text\/livescript)$/i.test(
    type.trim(),
  );
}
