import type { Page } from "./element.js";
import { NAMING_ATTRIBUTES, splitSourceSet } from "./loads.js";

/** An address that a document names. */
export interface Reference {
  /** Absolute, without its fragment. */
  readonly url: string;
  /** As the document writes it. */
  readonly written: string;
  /** The element that names it, such as "img". */
  readonly element: string;
  /** The width the page shows a picture or film at, in CSS pixels, where the element says so. */
  readonly width: number | undefined;
}

/** What a form leads to is not there for GET; a base is no file. */
const NOT_FOLLOWED = /^(?:form-action|base-uri)$/;

/** The addresses that a document names, in its order, resolved against `base`, an absolute address. */
export function findReferences({ elements }: Page, base: string): Reference[] {
  const references: Reference[] = [];
  let from = base;
  let hasBase = false;
  const add = (element: string, written: string | undefined, width?: string): void => {
    const url = written === undefined ? undefined : resolveAddress(written, from);
    const shown = /^\d+$/.test(width ?? "") ? Number(width) : undefined;
    if (url !== undefined) references.push({ url, written: written!.trim(), element, width: shown });
  };
  for (const { name, attributes } of elements) {
    const href = attributes.get("href");
    // HTML §4.2.3: the first one counts.
    if (name === "base" && href !== undefined && !hasBase) {
      from = resolveAddress(href, base) ?? from;
      hasBase = true;
    }
    const element = name.replace(/^svg:/, "");
    if (name === "link") {
      // What a page says of connections to come is no file.
      if (/\b(?:preconnect|dns-prefetch)\b/i.test(attributes.get("rel") ?? "")) continue;
      add(element, href);
      for (const candidate of splitSourceSet(attributes.get("imagesrcset") ?? "")) add(element, candidate);
    }
    for (const { attribute, directive, isSourceSet } of NAMING_ATTRIBUTES.get(name) ?? []) {
      const written = attributes.get(attribute);
      if (written === undefined || NOT_FOLLOWED.test(directive ?? "")) continue;
      if (isSourceSet) for (const candidate of splitSourceSet(written)) add(element, candidate);
      else add(element, written, /^(?:img|video)$/.test(name) ? attributes.get("width") : undefined);
    }
  }
  return references;
}

/** The absolute address without its fragment; undefined for one in the page itself, and for what is no address of the web. */
export function resolveAddress(written: string, base: string): string | undefined {
  const text = written.trim();
  if (text === "" || text.startsWith("#") || !URL.canParse(text, base)) return undefined;
  const url = new URL(text, base);
  url.hash = "";
  return /^https?:$/.test(url.protocol) ? url.href : undefined;
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
export function findRelativeAddresses({ elements }: Page): string[] {
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
