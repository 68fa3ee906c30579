import { type Document, isMap, isScalar, Lexer, LineCounter, type Node, parseDocument, visit } from "yaml";
import type * as z from "zod";
import { checkDepth } from "./depth.js";
import { formatProblem, validate } from "./problems.js";
import { SiteError, type Told } from "./site-error.js";

/** A place in a text, both from 1. */
export type Position = NonNullable<Told["at"]>;

/** A YAML or JSON text, understood, that still knows where each value stands. */
export interface WrittenDocument {
  readonly file: string;
  readonly value: unknown;
  /** The position of a key or value; undefined when it is not in the text. */
  locate(path: readonly PropertyKey[], aboutKey: boolean): Position | undefined;
}

/** Reads YAML 1.2, of which JSON is a part. Throws a SiteError that names file, line and column. */
export function parseWritten(text: string, file: string): WrittenDocument {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, logLevel: "error" });
  const position = (offset: number): Position => {
    const { line, col: column } = lines.linePos(offset);
    return { line, column };
  };
  // The others mostly follow from the first.
  const [fault] = document.errors;
  if (fault !== undefined) {
    const open = MAY_BE_OPEN.has(fault.code) ? findOpenBracket(text) : undefined;
    const told = open ?? { text: describeFault(fault), offset: fault.pos[0] };
    throw new SiteError([{ text: told.text, at: position(told.offset) }], file);
  }
  return {
    file,
    value: readValue(document, file, position),
    locate(path, aboutKey) {
      for (let length = path.length; length >= 0; length--) {
        const node = findNode(document.contents, path.slice(0, length), aboutKey && length === path.length);
        if (node?.range) return position(node.range[0]);
      }
      return undefined;
    },
  };
}

// Aliases may stand for more than memory holds, or for themselves.
function readValue(document: Document, file: string, position: (offset: number) => Position): unknown {
  let value: unknown;
  try {
    value = document.toJS({ maxAliasCount: ALIASES_AT_MOST });
  } catch (error) {
    const [, alias] = /Unresolved alias[^:]*: (\S+)/.exec((error as Error).message) ?? [];
    if (alias !== undefined)
      throw new SiteError(
        [
          {
            text: `found *${alias} without quotes, which YAML reads as an alias; put patterns in quotes: "*${alias}".`,
            at: position(findAlias(document, alias)),
          },
        ],
        file,
      );
    throw new SiteError(
      [`its aliases expand to more than ${ALIASES_AT_MOST} values; write the values out.`],
      file,
    );
  }
  checkDepth(value, file);
  return value;
}

const ALIASES_AT_MOST = 100;

function findAlias(document: Document, name: string): number {
  let offset = 0;
  visit(document, {
    Alias(_, { source, range }) {
      if (source !== name) return undefined;
      offset = range?.[0] ?? 0;
      return visit.BREAK;
    },
  });
  return offset;
}

/** Faults that the parser finds in a line behind a bracket that nobody closed. */
const MAY_BE_OPEN: ReadonlySet<string> = new Set([
  "BAD_INDENT",
  "BLOCK_IN_FLOW",
  "MISSING_CHAR",
  "UNEXPECTED_TOKEN",
]);

/** What the parser's lexer tells beside the text: where a value begins, and where brackets end that were not closed. */
const [MARKS, VALUE_BEGINS, BRACKETS_END] = [/^[\x02\x18\x1f]$/, "\x1f", "\x18"];

// The parser tells a line further down, which is as its writer meant it.
function findOpenBracket(text: string): { readonly text: string; readonly offset: number } | undefined {
  const open: { readonly bracket: string; readonly offset: number }[] = [];
  let [offset, isValue] = [0, false];
  for (const token of new Lexer().lex(text)) {
    if (token === BRACKETS_END) break;
    if (!isValue && (token === "[" || token === "{")) open.push({ bracket: token, offset });
    if (!isValue && (token === "]" || token === "}")) open.pop();
    isValue = token === VALUE_BEGINS;
    if (!MARKS.test(token)) offset += token.length;
  }
  const last = open.at(-1);
  if (last === undefined) return undefined;
  const { bracket } = last;
  const end = bracket === "[" ? "]" : "}";
  return { text: `the bracket ${bracket} is not closed; write ${end} at its end.`, offset: last.offset };
}

/** What is wrong with a text that is no YAML, by the parser's code. */
const FAULTS: Readonly<Record<string, string>> = {
  TAB_AS_INDENT: "found a tab; YAML is indented with spaces: write two spaces for each level",
  MISSING_CHAR:
    "something is missing here: a closing bracket or quote, the space after a colon, or the dash of a list entry",
  BAD_INDENT:
    "the line is not indented like the lines it belongs to, or a bracket is not closed: indent it like the line above",
  DUPLICATE_KEY: "the key is here twice; write it once",
  BLOCK_IN_FLOW:
    "keys without braces, or list entries with a dash, stand in brackets; put { } around the keys, and commas between entries",
  UNEXPECTED_TOKEN: "this does not belong here; put texts with special characters in quotes",
  MULTIPLE_DOCS: "a second document begins here, but a file has one: remove the line ---",
  BLOCK_AS_IMPLICIT_KEY: "a nested value begins on the line of its key; begin it on a new line",
  MULTILINE_IMPLICIT_KEY: "a key contains a line break; close the quote or the bracket of the line before",
};

function describeFault({ code, message }: { readonly code: string; readonly message: string }): string {
  const own = FAULTS[code];
  if (own !== undefined && !/call stack/.test(message)) return `${own}.`;
  return /call stack/.test(message)
    ? "values are nested too deeply; write fewer levels."
    : message.replace(/\.?$/, ".");
}

/** Holds a written document against a schema. Throws a SiteError with a sentence and a position for each problem. */
export function validateWritten<Schema extends z.ZodType>(
  document: WrittenDocument,
  schema: Schema,
): z.output<Schema> {
  const result = validate(schema, document.value);
  if (result.ok) return result.value;
  const told = result.problems.map((problem) => ({
    text: formatProblem(problem),
    at: document.locate(problem.path, problem.aboutKey),
  }));
  throw new SiteError(told, document.file);
}

function findNode(root: unknown, path: readonly PropertyKey[], wantKey: boolean): Node | undefined {
  let node = root;
  for (const [index, key] of path.entries()) {
    if (isMap(node)) {
      const pair = node.items.find((item) => isScalar(item.key) && String(item.key.value) === String(key));
      if (pair === undefined) return undefined;
      node = wantKey && index === path.length - 1 ? pair.key : pair.value;
    } else {
      node = (node as { items?: unknown[] } | undefined)?.items?.[Number(key)];
    }
    if (node === undefined || node === null) return undefined;
  }
  return node as Node;
}
