import type { Completion, CompletionContext, CompletionSource } from "@codemirror/autocomplete";
import { yamlLanguage } from "@codemirror/lang-yaml";
import type { SyntaxNode } from "@lezer/common";
import { SchemaWalk } from "./schema-walk.js";

/** A place in a text where something may be written. */
interface Place {
  /** The keys around it; "-" is an item of a list. */
  readonly path: readonly string[];
  /** Keys that the same mapping has already. */
  readonly taken: ReadonlySet<string>;
  /** What stands there may be a key, a value, or, as the item of a list, both. */
  readonly takes: readonly ("keys" | "values")[];
}

/** Completes keys and values of a YAML text, in block and in flow style, from a JSON Schema. */
export function completeFrom(schema: object): CompletionSource {
  const walk = new SchemaWalk(schema);
  return (context) => {
    const before = textBefore(context);
    const word = /[\w-]*$/.exec(before)![0];
    const lead = before.slice(before.lastIndexOf("\n") + 1, before.length - word.length);
    // Nothing is offered inside of quotes, of a comment, or of a word that is no name.
    if (!/^(?:[^"'#]|"[^"]*"|'[^']*')*$/.test(lead) || /[^\s:{}[\],-]$/.test(lead)) return null;
    const isValue = /[^\s:{}[\],]["']?\s*:\s+$/.test(lead);
    if (!isValue && word === "" && !context.explicit) return null;
    const place = findPlace(before, word, isValue);
    const keys = !place.takes.includes("keys")
      ? []
      : walk
          .keysAt(place.path)
          .filter(({ name }) => !place.taken.has(name) && !isBelow(context, lead, name))
          .map(
            ({ name, description }): Completion => ({
              label: name,
              apply: `${name}: `,
              info: description,
              type: "property",
            }),
          );
    const values = place.takes.includes("values") ? walk.valuesAt(place.path) : [];
    return offer([...keys, ...values.map((label) => ({ label }))], context.pos - word.length);
  };
}

/** What was completed with is followed by what may stand behind it. */
export const isKey = ({ type }: Completion): boolean => type === "property";

function offer(options: readonly Completion[], from: number) {
  const byLabel = new Map(options.map((option) => [option.label, option]));
  return byLabel.size === 0 ? null : { from, options: [...byLabel.values()], validFor: /^[\w-]*$/ };
}

const textBefore = ({ state, pos }: CompletionContext): string => state.sliceDoc(0, pos);

// What stands behind the cursor would be read as a part of what is half written: only what is before it is parsed.
function findPlace(before: string, word: string, isValue: boolean): Place {
  const text = before + (word === "" ? "x" : "");
  const plain = climb(text, isValue ? "" : ":");
  if (isValue) return { ...plain, takes: ["values"] };
  // In brackets a word is an item; a mapping there has braces.
  const inBrackets = climb(text, "").isItemOfFlow;
  return inBrackets ? { ...climb(text, ""), takes: ["values"] } : { ...plain, takes: takesOf(before) };
}

const takesOf = (before: string): Place["takes"] =>
  /(?:^|\n)\s*(?:- )+[\w-]*$/.test(before) ? ["keys", "values"] : ["keys"];

function climb(text: string, colon: string): Omit<Place, "takes"> & { readonly isItemOfFlow: boolean } {
  const all = text + colon;
  const path: string[] = [];
  let taken: ReadonlySet<string> | undefined;
  let isItemOfFlow: boolean | undefined;
  let child: SyntaxNode = yamlLanguage.parser.parse(all).resolveInner(text.length, -1);
  for (let node = child.parent; node !== null; [child, node] = [node, node.parent]) {
    if (node.name === "Pair" && child.name !== "Key") path.unshift(keyOf(node, all));
    else if (node.name === "Item") path.unshift("-");
    if (/Mapping$/.test(node.name)) taken ??= keysBefore(node, child, all);
    // A word that ends in brackets which nobody closed is read as a mapping of one key, without braces.
    if (/[[{]/.test(all[node.from]!)) isItemOfFlow ??= node.name === "FlowSequence";
  }
  return { path, taken: taken ?? new Set(), isItemOfFlow: isItemOfFlow ?? false };
}

function keysBefore(mapping: SyntaxNode, end: SyntaxNode, text: string): Set<string> {
  return new Set(
    mapping
      .getChildren("Pair")
      .filter(({ to }) => to <= end.from)
      .map((pair) => keyOf(pair, text)),
  );
}

function keyOf(pair: SyntaxNode, text: string): string {
  const key = pair.getChild("Key");
  return key === null ? "" : text.slice(key.from, key.to).replace(/^(["'])(.*)\1$/, "$2");
}

// A key of the same mapping further down, in block style: lines that stand as deep, until one stands less deep.
function isBelow({ state, pos }: CompletionContext, lead: string, name: string): boolean {
  if (!/^[\s-]*$/.test(lead)) return false;
  const { doc } = state;
  for (let number = doc.lineAt(pos).number + 1; number <= doc.lines; number++) {
    const { text } = doc.line(number);
    const depth = text.search(/[^\s]/);
    if (depth < 0 || text[depth] === "#") continue;
    if (depth < lead.length || text[depth] === "-") return false;
    if (depth === lead.length && text.slice(depth).startsWith(`${name}:`)) return true;
  }
  return false;
}
