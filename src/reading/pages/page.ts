import type { Slices } from "../slices.js";
import type { Page } from "./element.js";
import { readHtml } from "./read-html.js";
import { readXml } from "./read-xml.js";

/** Pages inside pages are read to this depth: each level can cost as much as the page itself. */
const DEEPEST = 3;

/** A longer page is not read to its end, in characters. */
export const LONGEST_PAGE = 4 * 1024 * 1024;

/** Reads a page as browsers do, in slices: HTML, or XML with elements of HTML and SVG in it. The time is linear in its length. */
export function* readPage(whole: string, isXml: boolean, depth = 0): Slices<Page> {
  const text = whole.slice(0, LONGEST_PAGE);
  const { elements, unread } = isXml ? yield* readXml(text) : yield* readHtml(text);
  let inside = text === whole ? undefined : "it is longer than 4 MiB, so it is not read to its end";
  for (const element of elements) {
    const srcdoc = element.name === "iframe" ? element.attributes.get("srcdoc") : undefined;
    if (srcdoc === undefined) continue;
    if (depth < DEEPEST) {
      element.inner = yield* readPage(srcdoc, false, depth + 1);
      inside ??= element.inner.unread;
    } else inside ??= `it has pages inside pages, more than ${DEEPEST} deep; put them into files`;
  }
  const isData = isXml && elements.length === 0 && unread === undefined;
  return { elements, unread: unread ?? inside, isData };
}

/** The text of the first title; "" without one. White space is as it is written. */
export function titleOf({ elements }: Page): string {
  return elements.find(({ name }) => name === "title")?.text ?? "";
}
