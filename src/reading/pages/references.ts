import { extractManifestLinks, extractScriptLinks, extractStyleLinks, readImportMap } from "../links.js";
import type { PageElement } from "./element.js";
import { NAMING_ATTRIBUTES, splitSourceSet } from "./loads.js";
import { Resolver } from "./resolve.js";

/** An address that a document names. */
export interface Reference {
  /** Absolute, without its fragment. */
  readonly url: string;
  /** Behind the `#`, as it is written; "" without one. */
  readonly fragment: string;
  /** As the document writes it. */
  readonly written: string;
  /** The element that names it, such as "img"; "style" for what a style names, "import" for what a script imports. */
  readonly element: string;
  /** The width the page shows a picture or film at, in CSS pixels, where the element says so. */
  readonly width: number | undefined;
}

/** What browsers load for a page; other relations lead somewhere (HTML §4.6.7). */
const LOADING =
  /\b(?:stylesheet|icon|(?:module)?preload|prefetch|prerender|manifest|apple-touch-[\w-]+|mask-icon)\b/i;
/** What a form leads to is not there for GET; a base is no file. */
const NOT_FOLLOWED = /^(?:form-action|base-uri)$/;

/** What has elements: a page, or those that were scanned. */
interface Elements {
  readonly elements: readonly PageElement[];
}

export interface ReferenceOptions {
  /** True to give those in the document itself, too, such as `#top`, and those of files on the reader's machine. */
  readonly all?: boolean;
}

/** The addresses that a document names, in its order and each once for a kind of element, resolved against `base`, an absolute address. */
export function findReferences(
  { elements }: Elements,
  base: string,
  { all = false }: ReferenceOptions = {},
): Reference[] {
  const reader = new ReferenceReader(base, all);
  for (const element of elements) reader.look(element);
  return reader.references;
}

/** Collects what the elements of a page name, one after the other. What one kind of element names again is left out. */
export class ReferenceReader {
  readonly references: Reference[] = [];
  readonly #seen = new Set<string>();
  readonly #resolver: Resolver;
  readonly #all: boolean;
  #hasBase = false;

  constructor(base: string, all: boolean) {
    this.#resolver = new Resolver(base, all);
    this.#all = all;
  }

  look({ name, attributes, text }: PageElement): void {
    if (name === "base") this.#setBase(attributes.get("href"));
    else if (name === "link") this.#lookAtLink(attributes);
    else if (name === "meta") this.#lookAtMeta(attributes);
    else if (name === "script") this.#lookAtScript(attributes, text);
    else if (name === "style") this.#addStyle(text);
    const style = attributes.get("style");
    if (style?.includes("(")) this.#addStyle(style);
    const rows = NAMING_ATTRIBUTES.get(name);
    if (rows === undefined) return;
    const element = name.startsWith("svg:") ? name.slice(4) : name;
    for (const { attribute, directive, isSourceSet } of rows) {
      const written = attributes.get(attribute);
      if (written === undefined || (directive !== undefined && NOT_FOLLOWED.test(directive))) continue;
      if (isSourceSet) for (const candidate of splitSourceSet(written)) this.#add(element, candidate);
      else this.#add(element, written, name === "img" || name === "video" ? widthOf(attributes) : undefined);
    }
  }

  #add(element: string, written: string, width = ""): void {
    // Before it is resolved, which costs more: pages name most addresses several times.
    const key = `${element} ${width} ${written}`;
    if (this.#seen.has(key)) return;
    this.#seen.add(key);
    const resolved = this.#resolver.resolve(written);
    if (resolved === undefined) return;
    if (!this.#all && written.trimStart().startsWith("#")) return;
    const shown = /^\d+$/.test(width) ? Number(width) : undefined;
    const { url, fragment } = resolved;
    this.references.push({ url, fragment, written: written.trim(), element, width: shown });
  }

  // HTML §4.2.3: the first one counts.
  #setBase(href: string | undefined): void {
    if (href === undefined || this.#hasBase) return;
    this.#resolver.setBase(href);
    this.#seen.clear();
    this.#hasBase = true;
  }

  #lookAtLink(attributes: ReadonlyMap<string, string>): void {
    // What a page says of connections to come is no file.
    if (/\b(?:preconnect|dns-prefetch)\b/i.test(attributes.get("rel") ?? "")) return;
    const href = attributes.get("href");
    const sizes = /^(\d{1,5})x\d{1,5}$/i.exec(attributes.get("sizes")?.trim() ?? "")?.[1];
    if (href !== undefined) this.#add(LOADING.test(attributes.get("rel") ?? "") ? "link" : "a", href, sizes);
    for (const candidate of splitSourceSet(attributes.get("imagesrcset") ?? "")) this.#add("link", candidate);
  }

  // HTML §4.2.5.3, shared declarative refresh steps.
  #lookAtMeta(attributes: ReadonlyMap<string, string>): void {
    if (attributes.get("http-equiv")?.trim().toLowerCase() !== "refresh") return;
    const content = attributes.get("content")?.slice(0, 4096) ?? "";
    const [, quote, written] = /^\s*[\d.]+[\s;,]+(?:url\s*=\s*)?(["']?)(.*)$/is.exec(content) ?? [];
    const end = quote ? written!.indexOf(quote) : -1;
    if (written?.trim()) this.#add("a", end < 0 ? written : written.slice(0, end));
  }

  // HTML §4.12.1: a module names files from the document; an import map says where modules are.
  #lookAtScript(attributes: ReadonlyMap<string, string>, text: string): void {
    const type = attributes.get("type")?.trim().toLowerCase() ?? "";
    if (text === "" || attributes.has("src")) return;
    if (type === "importmap")
      for (const { address } of readImportMap(text))
        if (/^\.{0,2}\//.test(address)) this.#add("import", address);
    if (type === "module" || type === "" || /javascript$/.test(type))
      for (const written of extractScriptLinks(text)) this.#add("import", written);
  }

  #addStyle(text: string): void {
    for (const written of extractStyleLinks(text)) this.#add("style", written);
  }
}

/** The width that an element gives a picture, by its attribute or its style. */
function widthOf(attributes: ReadonlyMap<string, string>): string | undefined {
  const style = attributes.get("style");
  const styled =
    style === undefined ? undefined : /(?:^|[;\s])width\s{0,9}:\s{0,9}(\d{1,6})px/i.exec(style)?.[1];
  return styled ?? attributes.get("width");
}

/** What a style sheet, a script or a manifest names, resolved against its own address. */
export function findReferencesIn(
  text: string,
  kind: "style" | "script" | "manifest",
  base: string,
): Reference[] {
  const resolver = new Resolver(base);
  const extract = { style: extractStyleLinks, script: extractScriptLinks, manifest: extractManifestLinks }[
    kind
  ];
  const element = { style: "style", script: "import", manifest: "manifest" }[kind];
  return extract(text).flatMap((written) => {
    const resolved = written.trimStart().startsWith("#") ? undefined : resolver.resolve(written);
    return resolved === undefined
      ? []
      : [{ ...resolved, written: written.trim(), element, width: undefined }];
  });
}
/** What a document loads, by element: addresses that must lead to the same place from wherever the document is shown. */
const LOADED: ReadonlyMap<string, string> = new Map([
  ["script", "src"],
  ["link", "href"],
  ["img", "src"],
]);

/**
 * The addresses in a document that mean another place at each address that shows the document: those that are relative, where no
 * `base` element says to what. A single-page application's document must have none.
 */
export function findRelativeAddresses({ elements }: Elements): string[] {
  const found: string[] = [];
  for (const { name, attributes } of elements) {
    if (name === "base" && isAbsolute(attributes.get("href") ?? "")) return [];
    const written = attributes.get(LOADED.get(name) ?? "")?.trim();
    if (written !== undefined && written !== "" && !written.startsWith("#") && !isAbsolute(written))
      found.push(written);
  }
  return found;
}

// RFC 3986 §4.2: a reference with a scheme, or one that begins with a slash.
function isAbsolute(address: string): boolean {
  return address.startsWith("/") || /^[a-z][a-z0-9+.-]*:/i.test(address);
}
