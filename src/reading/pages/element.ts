/** An element of a page that has attributes, or a text that counts. */
export interface PageElement {
  /** Its local name. HTML is in lower case; SVG as it is written, with `svg:` in front. */
  readonly name: string;
  /** Names are in lower case in HTML. Of namespaces only `xlink:` is kept. */
  readonly attributes: ReadonlyMap<string, string>;
  /** The text in a script, a style or a title; empty for all others. */
  readonly text: string;
  /** It stands in the head itself. */
  readonly isInHead: boolean;
  /** The page in the attribute `srcdoc` of a frame. */
  readonly inner: Page | undefined;
}

/** What a browser finds in a page. */
export interface Page {
  /** In the order in which the parser makes them. Elements in `noscript` come last. */
  readonly elements: readonly PageElement[];
  /** Why the page was not read to its end, as a sentence without a full stop; undefined if it was. */
  readonly unread: string | undefined;
  /** XML without any element of a page and without a style sheet: browsers show it as a tree. */
  readonly isData: boolean;
}

/** An element while its page is read. */
export interface ElementInProgress extends PageElement {
  readonly attributes: Map<string, string>;
  text: string;
  isInHead: boolean;
  inner: Page | undefined;
}

/** What a parser found, and why it stopped early, if it did. */
export interface Found {
  readonly elements: ElementInProgress[];
  readonly unread: string | undefined;
}
