import { type SaxesAttributeNS, SaxesParser, type SaxesTagNS } from "saxes";
import type { Slices } from "../slices.js";
import type { ElementInProgress, Found } from "./element.js";

/** How much is read between two chances for others, in characters. */
const SLICE = 2 * 1024;
/** A document that nests deeper is not read on: a prefix of each element is looked for in all around it. */
const DEEPEST = 256;
/** The namespaces whose elements do something in a browser, with what stands before their names. */
const NAMESPACES: ReadonlyMap<string, string> = new Map([
  ["http://www.w3.org/1999/xhtml", ""],
  ["http://www.w3.org/2000/svg", "svg:"],
]);
const XLINK = "http://www.w3.org/1999/xlink";
/** The entities of XML itself (XML 1.0 §4.6). */
const ENTITIES: ReadonlyMap<string, string> = new Map([
  ["amp", "&"],
  ["gt", ">"],
  ["lt", "<"],
  ["quot", '"'],
  ["apos", "'"],
]);
/** A document with more mistakes is not read on: browsers stop at the first that matters. */
const MISTAKES_AT_MOST = 50;

/** Thrown through the parser to stop it. */
class Stop extends Error {}

/**
 * Reads an XML document as browsers do (Namespaces in XML): of it, the elements of HTML and SVG, and the style sheets that it names,
 * as elements named `?xml-stylesheet`. A document that is not well-formed is read on after its mistake, where browsers stop.
 */
export function* readXml(text: string): Slices<Found> {
  const document = new XmlDocument();
  for (let at = 0; at < text.length && !document.isOver; at += SLICE) {
    document.write(text.slice(at, at + SLICE));
    yield;
  }
  return document;
}

class XmlDocument implements Found {
  readonly elements: ElementInProgress[] = [];
  unread: string | undefined;
  isOver = false;
  #mistakes = 0;
  readonly #open: (ElementInProgress | undefined)[] = [];
  readonly #parser = new SaxesParser({ xmlns: true, position: false });

  constructor() {
    this.#parser.ENTITIES = new Proxy({}, { get: (_, name) => this.#findEntity(String(name)) });
    this.#parser.on("opentag", (tag) => this.#openTag(tag));
    this.#parser.on("closetag", () => void this.#open.pop());
    this.#parser.on("text", (text) => this.#addText(text));
    this.#parser.on("cdata", (text) => this.#addText(text));
    this.#parser.on("processinginstruction", ({ target, body }) => this.#addInstruction(target, body));
    this.#parser.on("doctype", (doctype) => {
      if (/<!ENTITY\b/.test(doctype))
        this.unread ??=
          "it declares entities of its own, which are not read; write their text in their place";
    });
    this.#parser.on("error", () => {
      if (++this.#mistakes > MISTAKES_AT_MOST) this.#stop("it is not well-formed XML; correct it");
    });
  }

  write(text: string): void {
    try {
      this.#parser.write(text);
    } catch (error) {
      if (!(error instanceof Stop)) throw error;
    }
  }

  #stop(unread: string): never {
    this.isOver = true;
    this.unread ??= unread;
    throw new Stop();
  }

  // Of a document type definition only the five entities that are always there are known.
  #findEntity(name: string): string | undefined {
    if (!ENTITIES.has(name))
      this.unread ??= `it uses the entity &${name.slice(0, 40)};, which is not read; write the character itself`;
    return ENTITIES.get(name);
  }

  #openTag(tag: SaxesTagNS): void {
    if (this.#open.length >= DEEPEST)
      this.#stop(
        `its elements are nested more than ${DEEPEST} deep, so it is not read to its end; close each one that you open`,
      );
    const prefix = NAMESPACES.get(tag.uri);
    const parent = this.#open.at(-1);
    const element: ElementInProgress | undefined =
      prefix === undefined
        ? undefined
        : {
            name: prefix + tag.local,
            attributes: new Map(Object.values(tag.attributes).flatMap(toPair)),
            text: "",
            isInHead: parent?.name === "head",
            inner: undefined,
          };
    this.#open.push(element);
    if (element !== undefined) this.elements.push(element);
  }

  #addText(text: string): void {
    const element = this.#open.at(-1);
    if (element !== undefined && /^(?:svg:)?(?:script|style|title)$/.test(element.name)) element.text += text;
  }

  // Associating Style Sheets with XML documents §3.
  #addInstruction(target: string, body: string): void {
    if (target !== "xml-stylesheet") return;
    const attributes = new Map(
      [...body.slice(0, 2000).matchAll(/([a-z]+)\s*=\s*(?:"([^"]*)"|'([^']*)')/g)].map(
        ([, name, one, other]) => [name!, one ?? other!],
      ),
    );
    this.elements.push({ name: `?${target}`, attributes, text: "", isInHead: false, inner: undefined });
  }
}

function toPair({ uri, local, prefix, value }: SaxesAttributeNS): [string, string][] {
  if (uri === "" || prefix === "") return [[local, value]];
  return uri === XLINK ? [[`xlink:${local}`, value]] : [];
}
