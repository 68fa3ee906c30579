import type { Directive } from "../../core/rules/protect.js";

/** An attribute that names an address, or several, and what browsers do with it. */
export interface NamingAttribute {
  readonly attribute: string;
  /** The directive of a policy that limits it (CSP3 §6); undefined for a link that visitors follow. */
  readonly directive: Directive | undefined;
  /** A list of candidates (HTML §4.8.4.2.1). */
  readonly isSourceSet: boolean;
}

const row = (attribute: string, directive?: Directive): NamingAttribute => ({
  attribute,
  directive,
  isSourceSet: /srcset$/.test(attribute),
});
const svgLink = [row("href", "img-src"), row("xlink:href", "img-src")];

/** Attributes with addresses, by element (HTML, index of attributes; SVG 2 §16). Of `link`, its rel says what it is for. */
export const NAMING_ATTRIBUTES: ReadonlyMap<string, readonly NamingAttribute[]> = new Map([
  ["a", [row("href")]],
  ["area", [row("href")]],
  ["audio", [row("src", "media-src")]],
  ["base", [row("href", "base-uri")]],
  ["body", [row("background", "img-src")]],
  ["button", [row("formaction", "form-action")]],
  ["embed", [row("src", "object-src")]],
  ["form", [row("action", "form-action")]],
  ["frame", [row("src", "frame-src")]],
  ["iframe", [row("src", "frame-src")]],
  ["img", [row("src", "img-src"), row("srcset", "img-src")]],
  ["input", [row("src", "img-src"), row("formaction", "form-action")]],
  ["object", [row("data", "object-src")]],
  ["script", [row("src", "script-src")]],
  ["source", [row("src", "media-src"), row("srcset", "img-src")]],
  ["track", [row("src", "media-src")]],
  ["video", [row("src", "media-src"), row("poster", "img-src")]],
  ["svg:a", [row("href"), row("xlink:href")]],
  ["svg:feImage", svgLink],
  ["svg:image", svgLink],
  ["svg:script", [row("href", "script-src"), row("xlink:href", "script-src")]],
  ["svg:use", svgLink],
  ["?xml-stylesheet", [row("href", "style-src")]],
]);

/** What is loaded by a `link`, by the words of its rel. */
export const BY_REL: ReadonlyMap<string, Directive> = new Map([
  ["stylesheet", "style-src"],
  ["modulepreload", "script-src"],
  ["icon", "img-src"],
  ["apple-touch-icon", "img-src"],
  ["manifest", "manifest-src"],
]);

/** What is preloaded, by the attribute `as`. */
export const BY_AS: ReadonlyMap<string, Directive> = new Map([
  ["script", "script-src"],
  ["style", "style-src"],
  ["image", "img-src"],
  ["font", "font-src"],
  ["audio", "media-src"],
  ["video", "media-src"],
  ["fetch", "connect-src"],
]);

/** The addresses in a list of candidates (HTML §4.8.4.2.1): parted by commas behind a blank or a descriptor; an address may hold commas. */
export function splitSourceSet(sourceSet: string): string[] {
  const addresses: string[] = [];
  let at = 0;
  const skip = (pattern: RegExp): void => {
    while (at < sourceSet.length && pattern.test(sourceSet[at]!)) at++;
  };
  for (;;) {
    skip(/[\s,]/);
    if (at >= sourceSet.length) return addresses;
    const start = at;
    skip(/\S/);
    let end = at;
    while (sourceSet[end - 1] === ",") end--;
    addresses.push(sourceSet.slice(start, end));
    if (end === at) skip(/[^,]/);
  }
}
