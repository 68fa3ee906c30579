import type { Directive, PageNeeds } from "../../core/rules/protect.js";
import type { Page, PageElement } from "./element.js";
import { BY_AS, BY_REL, NAMING_ATTRIBUTES, splitSourceSet } from "./loads.js";

/** A policy that is longer does not pass every proxy, in characters. */
const LONGEST = 6000;
const SITE = "http://site.invalid/";
/** Where a text in the address itself does no more than show, sound or draw letters. */
const HARMLESS: ReadonlySet<Directive> = new Set(["img-src", "font-src", "media-src"]);

/** What is in a page that its policy must allow. */
export interface Contents {
  readonly sources: ReadonlyMap<Directive, ReadonlySet<string>>;
  readonly scripts: ReadonlySet<string>;
  readonly styles: ReadonlySet<string>;
  readonly handlers: ReadonlySet<string>;
  readonly styleAttributes: ReadonlySet<string>;
  readonly problems: ReadonlySet<string>;
}

/**
 * What a page needs of its policy, by what is in it: the digests of its own scripts and styles, and the addresses on other hosts
 * that it names. What scripts load later cannot be read from the page.
 */
export async function findNeeds(contents: Contents): Promise<PageNeeds> {
  const texts = listTexts(contents);
  const digests = await Promise.all(texts.map(digest));
  return toNeeds(contents, new Map(texts.map((one, index) => [one, digests[index]!])));
}

/** What is in a page, and in the pages inside it: the first step of `findNeeds`, for callers with their own way to digests. */
export function findContents(page: Page): Contents {
  const contents = new Collected();
  contents.read(page);
  return contents;
}

/** The texts of a page that a policy names by their digests. */
export function listTexts({ scripts, styles, handlers, styleAttributes }: Contents): string[] {
  return [...scripts, ...styles, ...handlers, ...styleAttributes];
}

/** The last step: from what is in a page, and the digests of its texts as a policy writes them. */
export function toNeeds(page: Contents, digests: ReadonlyMap<string, string>): PageNeeds {
  const sources = new Map<Directive, string[]>();
  const problems = new Set(page.problems);
  let length = 0;
  // What does not fit is left out as a whole: a policy that is cut off would stop the page at random.
  const add = (directive: Directive, list: readonly string[], what: string): void => {
    const more = list.reduce((sum, one) => sum + one.length + 1, 0);
    if (length + more > LONGEST) {
      problems.add(
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
    const before = problems.size;
    addTexts(directive, texts, what);
    if (problems.size === before) add(directive, ["'unsafe-hashes'"], what);
  }
  return { sources, problems: [...problems] };
}

async function digest(text: string): Promise<string> {
  const bytes = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
  let binary = "";
  for (const byte of new Uint8Array(bytes)) binary += String.fromCharCode(byte);
  return `'sha256-${btoa(binary)}'`;
}

class Collected implements Contents {
  readonly sources = new Map<Directive, Set<string>>();
  readonly scripts = new Set<string>();
  readonly styles = new Set<string>();
  readonly handlers = new Set<string>();
  readonly styleAttributes = new Set<string>();
  readonly problems = new Set<string>();
  #base = SITE;

  read({ elements, unread, isData }: Page): void {
    if (unread !== undefined) this.problems.add(unread);
    // The tree that a browser shows has styles of its own. Nothing in the file can have any.
    if (isData) this.sources.set("style-src", new Set(["'unsafe-inline'"]));
    for (const element of elements) {
      this.#look(element);
      if (element.inner !== undefined) this.read(element.inner);
    }
  }

  #look(element: PageElement): void {
    const { name, attributes } = element;
    const href = attributes.get("href");
    if (name === "base" && this.#base === SITE && URL.canParse(href ?? "", SITE))
      this.#base = new URL(href!, SITE).href;
    // One without a text is held against the policy, too.
    if (/^(?:svg:)?style$/.test(name)) this.styles.add(element.text);
    if (/^(?:svg:)?script$/.test(name)) this.#lookAtScript(element);
    if (name === "link") this.#lookAtLink(attributes);
    if (name === "?xml-stylesheet") this.#lookAtTransformation(attributes);
    for (const { attribute, directive, isSourceSet } of NAMING_ATTRIBUTES.get(name) ?? []) {
      const written = attributes.get(attribute);
      if (written !== undefined && directive !== undefined)
        for (const one of isSourceSet ? splitSourceSet(written) : [written]) this.#add(one, directive);
    }
    for (const [attribute, value] of attributes) this.#lookAtAttribute(attribute, value);
  }

  #lookAtScript({ name, attributes, text }: PageElement): void {
    const isExternal =
      attributes.has("src") ||
      (name !== "script" && (attributes.has("href") || attributes.has("xlink:href")));
    if (!isExternal && runs(name, attributes) && text !== "") this.scripts.add(text);
  }

  #lookAtAttribute(attribute: string, value: string): void {
    if (attribute === "style") this.styleAttributes.add(value);
    if (/^on[a-z]+$/i.test(attribute) && value !== "") this.handlers.add(value);
    // The URL Standard §4.4: blanks around an address count for nothing, line ends and tabs in it neither.
    if (
      /^(?:href|src|action|formaction|data|xlink:href)$/.test(attribute) &&
      /^[\x00-\x20]*javascript:/i.test(value.slice(0, 1000).replace(/[\t\n\r]/g, ""))
    )
      this.problems.add(
        `a javascript: address (${JSON.stringify(value.trim().slice(0, 40))}) never runs under a policy; use a button and a script`,
      );
  }

  #lookAtLink(attributes: ReadonlyMap<string, string>): void {
    const as = attributes.get("as")?.toLowerCase() ?? "";
    for (const word of (attributes.get("rel") ?? "").toLowerCase().split(/\s+/)) {
      const directive = word === "preload" ? BY_AS.get(as) : BY_REL.get(word);
      if (directive === undefined) continue;
      this.#add(attributes.get("href") ?? "", directive);
      if (word === "preload")
        for (const one of splitSourceSet(attributes.get("imagesrcset") ?? "")) this.#add(one, directive);
    }
  }

  // XSLT §2: the page that visitors see is made by the style sheet, under the policy of the document.
  #lookAtTransformation(attributes: ReadonlyMap<string, string>): void {
    if (/xsl/i.test(attributes.get("type") ?? ""))
      this.problems.add(
        "its style sheet makes a page of it, and the scripts and styles in that page are not allowed by this policy; put them into files of the site",
      );
  }

  #add(written: string, directive: Directive): void {
    const address = written.trim();
    const source = address === "" ? undefined : this.#sourceOf(address, directive);
    if (source === undefined) return;
    const known = this.sources.get(directive) ?? new Set();
    this.sources.set(directive, known.add(source));
  }

  #sourceOf(address: string, directive: Directive): string | undefined {
    if (!URL.canParse(address, this.#base)) return undefined;
    const url = new URL(address, this.#base);
    if (url.protocol === "data:" || url.protocol === "blob:")
      return this.#sourceOfText(url.protocol, directive);
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
    if (directive !== "script-src" && directive !== "style-src") return host;
    // Scripts are named by their whole address: a host may have others. CSP3 §6.7.2.11: a slash at its end would name all below it.
    if (!url.pathname.endsWith("/")) return host + escapeSource(url.pathname);
    this.problems.add(
      `it loads ${JSON.stringify(url.href.slice(0, 60))}, and a policy cannot allow this one alone; name a file, or list the address in protect.allow`,
    );
    return undefined;
  }

  // A policy allows such addresses only all together: whoever gets a text into the page could run it.
  #sourceOfText(scheme: string, directive: Directive): string | undefined {
    if (HARMLESS.has(directive)) return directive === "media-src" ? scheme : undefined;
    this.problems.add(
      `it has a ${scheme} address that ${directive} would have to allow, and with it each one that a stranger writes; put the content into a file of the site`,
    );
    return undefined;
  }
}

// CSP3 §2.3.1: these separate sources and directives.
const escapeSource = (path: string): string => path.replaceAll(";", "%3B").replaceAll(",", "%2C");

/** What a script runs as, or what tells modules where they are (HTML §4.12.1; MIME Sniffing Standard §4.6). */
const RUNS =
  /^(?:module|importmap|speculationrules|(?:text|application)\/(?:x-)?(?:java|ecma)script|text\/javascript1\.[0-5]|text\/jscript|text\/livescript)$/i;

function runs(name: string, attributes: ReadonlyMap<string, string>): boolean {
  const type = attributes.get("type");
  if (type !== undefined) return type.trim() === "" || RUNS.test(type.trim());
  // SVG 2 §15.3 has no such attribute.
  const language = name === "script" ? (attributes.get("language") ?? "") : "";
  return language === "" || RUNS.test(`text/${language}`);
}
