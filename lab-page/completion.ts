import type { Completion, CompletionContext, CompletionSource } from "@codemirror/autocomplete";

/** As much of JSON Schema as the configuration's has. */
interface Schema {
  readonly description?: string;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly additionalProperties?: Schema | boolean;
  readonly items?: Schema;
  readonly anyOf?: readonly Schema[];
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly type?: string | readonly string[];
}

/** Completes keys and words of a YAML text in block style, from a JSON Schema. */
export function completeFrom(schema: object): CompletionSource {
  return (context) => {
    const { state, pos } = context;
    const line = state.doc.lineAt(pos);
    const before = line.text.slice(0, pos - line.from);
    const value = /^(\s*(?:- )*)([\w-]+): (\S*)$/.exec(before);
    const key = /^(\s*(?:- )*)([\w-]*)$/.exec(before);
    if (value !== null) {
      const path = [...pathAbove(context, value[1]!), value[2]!];
      return offer(at(schema as Schema, path).flatMap(wordsOf), pos - value[3]!.length);
    }
    if (key === null || (key[2] === "" && !context.explicit)) return null;
    return offer(at(schema as Schema, pathAbove(context, key[1]!)).flatMap(keysOf), pos - key[2]!.length);
  };
}

function offer(options: readonly Completion[], from: number) {
  const byLabel = new Map(options.map((option) => [option.label, option]));
  return byLabel.size === 0 ? null : { from, options: [...byLabel.values()], validFor: /^[\w-]*$/ };
}

/** The keys that enclose a line: those above it that stand less deep. A dash is a place in a list. */
function pathAbove({ state, pos }: CompletionContext, lead: string): string[] {
  const path: string[] = [];
  if (lead.includes("-")) path.unshift("-");
  let depth = lead.includes("-") ? lead.indexOf("-") : lead.length;
  for (
    let number = state.doc.lineAt(pos).number - 1;
    number > 0 && (depth > 0 || path.length === 0 || path[0] === "-");
    number--
  ) {
    const [, blanks, dashes, key] = /^(\s*)((?:- )*)([\w"'./-]+):/.exec(state.doc.line(number).text) ?? [];
    if (blanks === undefined || key === undefined) continue;
    const own = blanks.length + dashes!.length;
    // A list may stand as deep as its key.
    if (own < depth || (own === depth && path[0] === "-" && dashes === "")) {
      path.unshift(key.replace(/^["']|["']$/g, ""));
      depth = own;
      if (dashes !== "") {
        path.unshift("-");
        depth = blanks.length;
      }
      if (depth === 0 && dashes === "") break;
    } else if (own === depth && dashes !== "" && path[0] !== "-") {
      // The first key of the same place in a list.
      path.unshift("-");
      depth = blanks.length;
    }
  }
  return path;
}

function at(schema: Schema, path: readonly string[]): Schema[] {
  let schemas = branches(schema);
  for (const key of path)
    schemas = schemas.flatMap(({ items, properties, additionalProperties }) => {
      const next =
        key === "-"
          ? items
          : (properties?.[key] ??
            (typeof additionalProperties === "object" ? additionalProperties : undefined));
      return next === undefined ? [] : branches(next);
    });
  return schemas;
}

function branches(schema: Schema): Schema[] {
  return schema.anyOf === undefined ? [schema] : schema.anyOf.flatMap(branches);
}

function keysOf({ properties = {} }: Schema): Completion[] {
  return Object.entries(properties).map(([label, { description = "" }]) => ({
    label,
    apply: `${label}: `,
    info: description,
  }));
}

function wordsOf(schema: Schema): Completion[] {
  const words = [...(schema.enum ?? []), ...(schema.const === undefined ? [] : [schema.const])];
  if (schema.type === "boolean") words.push(true, false);
  return words.map((word) => ({ label: String(word) }));
}
