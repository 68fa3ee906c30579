import { type Document, isMap, isScalar, LineCounter, type Node, parseDocument } from "yaml";
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
  if (fault !== undefined)
    throw new SiteError([{ text: describeFault(fault), at: position(fault.pos[0]) }], file);
  return {
    file,
    value: readValue(document, file),
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
function readValue(document: Document, file: string): unknown {
  let value: unknown;
  try {
    value = document.toJS({ maxAliasCount: ALIASES_AT_MOST });
  } catch (error) {
    const [, alias] = /Unresolved alias[^:]*: (\S+)/.exec((error as Error).message) ?? [];
    if (alias !== undefined)
      throw new SiteError(
        [
          `found *${alias} without quotes, which YAML reads as an alias; put patterns in quotes: "*${alias}".`,
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

/** What is wrong with a text that is no YAML, by the parser's code. */
const FAULTS: Readonly<Record<string, string>> = {
  TAB_AS_INDENT: "found a tab; YAML is indented with spaces: write two spaces for each level",
  MISSING_CHAR:
    "something is missing here: a closing bracket or quote, the space after a colon, or the dash of a list entry",
  BAD_INDENT:
    "the line is not indented like the lines it belongs to, or a bracket is not closed: indent it like the line above",
  DUPLICATE_KEY: "the key is here twice; write it once",
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
