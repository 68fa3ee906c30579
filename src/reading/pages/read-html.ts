import { html, Parser, type Token, type TreeAdapter, type TreeAdapterTypeMap } from "parse5";
import type { Slices } from "../slices.js";
import type { ElementInProgress, Found } from "./element.js";

/** How much is read between two chances for others, in characters. */
const SLICE = 2 * 1024;
/** Elements that a page may have beyond one for each two characters: the parser makes some that nobody wrote. */
const UNWRITTEN = 1000;
/** Elements whose text counts. */
const WITH_TEXT = new Set(["script", "style", "title", "svg:script", "svg:style"]);

/** Elements that are kept without attributes: those whose text counts, and those that later tags of the same name add to. */
const KEPT = new Set([...WITH_TEXT, "html", "body"]);

/** A node of the tree that is built. Only the way up is kept: what is needed of an element is in `element`. */
interface Node {
  parent: Node | null;
  readonly tagName: string;
  readonly namespace: html.NS;
  readonly attributes: Token.Attribute[];
  readonly element: ElementInProgress | undefined;
  isInNoscript: boolean;
  /** What is in a template. */
  content: Node | undefined;
}

interface Nodes extends TreeAdapterTypeMap<Node> {
  node: Node;
  parentNode: Node;
  childNode: Node;
  commentNode: Node;
  textNode: Node;
  document: Node;
  documentFragment: Node;
  element: Node;
  template: Node;
  documentType: Node;
}

/** Thrown through the parser when a page makes more elements than it can have written. */
class TooMany extends Error {}

/** Reads HTML by the standard's tokenizer and tree builder (HTML §13.2), as a browser with scripts does, and then its `noscript` without. */
export function* readHtml(text: string): Slices<Found> {
  const first = new Tree(text);
  yield* build(text, first, true);
  if (!first.hasNoscript || first.unread !== undefined) return first;
  const second = new Tree(text);
  yield* build(text, second, false);
  return { elements: [...first.elements, ...second.inNoscript], unread: second.unread };
}

function* build(text: string, tree: Tree, scriptingEnabled: boolean): Slices<void> {
  const parser = new PageParser({ treeAdapter: tree.adapter, scriptingEnabled });
  try {
    for (let at = 0; at < text.length; at += SLICE) {
      parser.tokenizer.write(text.slice(at, at + SLICE), false);
      yield;
    }
    parser.tokenizer.write("", true);
  } catch (error) {
    if (!(error instanceof TooMany)) throw error;
    tree.unread =
      "its elements are nested so badly that it is not read to its end; close each one that you open";
  }
}

// The parser's insertion modes, by their numbers.
const [IN_BODY, IN_TABLE_TEXT, IN_SELECT, IN_SELECT_IN_TABLE] = [6, 9, 15, 16] as const;

/** HTML §13.2.6.4.7 has no modes for a select any more: what is in one is read like everything else. */
class PageParser extends Parser<Nodes> {
  override onStartTag(token: Token.TagToken): void {
    const before = this.insertionMode;
    super.onStartTag(token);
    if (this.insertionMode === IN_SELECT) this.insertionMode = IN_BODY;
    if (this.insertionMode === IN_SELECT_IN_TABLE)
      this.insertionMode = before === IN_TABLE_TEXT ? this.originalInsertionMode : before;
  }

  override _resetInsertionModeForSelect(): void {
    this.insertionMode = IN_BODY;
  }
}

/** The tree of a page, as far as the parser needs one. */
class Tree {
  readonly elements: ElementInProgress[] = [];
  readonly inNoscript: ElementInProgress[] = [];
  hasNoscript = false;
  unread: string | undefined;
  readonly adapter: TreeAdapter<Nodes>;
  #left: number;

  constructor(text: string) {
    this.#left = UNWRITTEN + text.length / 2;
    this.adapter = this.#makeAdapter();
  }

  #createElement(tagName: string, namespace: html.NS, attributes: Token.Attribute[]): Node {
    if (--this.#left < 0) throw new TooMany();
    const name = namespace === html.NS.SVG ? `svg:${tagName}` : tagName;
    const element =
      attributes.length > 0 || KEPT.has(name)
        ? { name, attributes: toMap(attributes), text: "", isInHead: false, inner: undefined }
        : undefined;
    if (element !== undefined) this.elements.push(element);
    return { ...makeNode(tagName, namespace), attributes, element };
  }

  #attach(parent: Node, node: Node): void {
    node.parent = parent;
    const isInNoscript = parent.isInNoscript || parent.tagName === "noscript";
    if (node.element !== undefined) {
      node.element.isInHead = parent.tagName === "head";
      if (isInNoscript && !node.isInNoscript) this.inNoscript.push(node.element);
    }
    node.isInNoscript = isInNoscript;
  }

  #addText(parent: Node, text: string): void {
    if (parent.tagName === "noscript" && text.includes("<")) this.hasNoscript = true;
    if (parent.element !== undefined && WITH_TEXT.has(parent.element.name)) parent.element.text += text;
  }

  #makeAdapter(): TreeAdapter<Nodes> {
    const nothing = (): void => {};
    return {
      createDocument: () => makeNode("#document"),
      createDocumentFragment: () => makeNode("#fragment"),
      createElement: (tagName, namespace, attributes) => this.#createElement(tagName, namespace, attributes),
      createCommentNode: () => makeNode("#comment"),
      createTextNode: () => makeNode("#text"),
      appendChild: (parent, node) => this.#attach(parent, node),
      insertBefore: (parent, node) => this.#attach(parent, node),
      detachNode(node) {
        node.parent = null;
      },
      insertText: (parent, text) => this.#addText(parent, text),
      insertTextBefore: (parent, text) => this.#addText(parent, text),
      adoptAttributes(node, attributes) {
        const own = node.element?.attributes;
        for (const { name, value } of attributes) if (own?.has(name) === false) own.set(name, value);
      },
      setTemplateContent(template, content) {
        template.content = content;
      },
      getTemplateContent: (template) => template.content!,
      // Nothing is looked for from above: what is adopted has the same place for us.
      getFirstChild: () => null,
      getChildNodes: () => [],
      getParentNode: ({ parent }) => parent,
      getAttrList: ({ attributes }) => attributes,
      getTagName: ({ tagName }) => tagName,
      getNamespaceURI: ({ namespace }) => namespace,
      getTextNodeContent: () => "",
      getCommentNodeContent: () => "",
      getDocumentTypeNodeName: () => "",
      getDocumentTypeNodePublicId: () => "",
      getDocumentTypeNodeSystemId: () => "",
      setDocumentType: nothing,
      ...keepMode(),
      isTextNode: (node): node is Node => node.tagName === "#text",
      isCommentNode: (node): node is Node => node.tagName === "#comment",
      isDocumentTypeNode: (_node): _node is Node => false,
      isElementNode: (node): node is Node => !node.tagName.startsWith("#"),
      getNodeSourceCodeLocation: () => undefined,
      setNodeSourceCodeLocation: nothing,
      updateNodeSourceCodeLocation: nothing,
    };
  }
}

// Quirks change what a table in a paragraph does to it.
function keepMode(): Pick<TreeAdapter<Nodes>, "setDocumentMode" | "getDocumentMode"> {
  let mode = html.DOCUMENT_MODE.NO_QUIRKS;
  return {
    setDocumentMode(_document, given) {
      mode = given;
    },
    getDocumentMode: () => mode,
  };
}

function makeNode(tagName: string, namespace = html.NS.HTML): Node {
  return {
    parent: null,
    tagName,
    namespace,
    attributes: [],
    element: undefined,
    isInNoscript: false,
    content: undefined,
  };
}

function toMap(attributes: readonly Token.Attribute[]): Map<string, string> {
  return new Map(attributes.map(({ prefix, name, value }) => [prefix ? `${prefix}:${name}` : name, value]));
}
