import type * as z from "zod";
import { suggestName } from "../core/text/suggest.js";
import { OTHER_WORDS } from "./other-words.js";

/** Something wrong in what a person wrote: where it is, what was found, and what to write instead. */
export interface Problem {
  /** Path of the key, such as `mounts[1].at`. */
  readonly where: string;
  readonly path: readonly PropertyKey[];
  readonly found: string;
  readonly wanted: string;
  /** True when it is about the key's name and not about its value. */
  readonly aboutKey: boolean;
}

export function formatProblem({ where, found, wanted }: Problem): string {
  return `${where}${where === "" ? "" : ": "}found ${found}; ${wanted}.`;
}

function formatKeyPath(path: readonly PropertyKey[]): string {
  return path.reduce<string>((text, key) => {
    if (typeof key === "number") return `${text}[${key}]`;
    const name = String(key);
    if (!/^[A-Za-z_$][\w$]*$/.test(name)) return `${text}[${JSON.stringify(name)}]`;
    return text === "" ? name : `${text}.${name}`;
  }, "");
}

/** Holds a value against a schema: the value, or every problem found in it. */
export function validate<Schema extends z.ZodType>(
  schema: Schema,
  value: unknown,
): { ok: true; value: z.output<Schema> } | { ok: false; problems: Problem[] } {
  const result = schema.safeParse(value);
  if (result.success) return { ok: true, value: result.data };
  return {
    ok: false,
    problems: result.error.issues.flatMap((issue) => toProblems(issue, [], schema, value)),
  };
}

type Issue = z.core.$ZodIssue;

function toProblems(
  issue: Issue,
  above: readonly PropertyKey[],
  schema: z.ZodType,
  root: unknown,
): Problem[] {
  const path = [...above, ...issue.path];
  const value = valueAt(root, path);
  const problem = (wanted: string, found = formatValue(value)): Problem => ({
    where: formatKeyPath(path),
    path,
    found,
    wanted,
    aboutKey: false,
  });
  switch (issue.code) {
    case "unrecognized_keys":
      return issue.keys.map((key) => unknownKey(key, path, keysAt(schema, path)));
    case "invalid_type":
      if (issue.expected === "string" && Object.prototype.toString.call(value) === "[object URL]")
        return [problem("a path is a text: write fileURLToPath(url), from node:url", "a URL")];
      if (value === undefined)
        return [problem(describeWanted(issue.expected, value, schema, path), "nothing")];
      return [problem(describeWanted(issue.expected, value, schema, path))];
    case "invalid_value":
      return [problem(`write ${listChoices(issue.values, typeof value === "string" ? value : "")}`)];
    case "too_small":
      return [problem(describeTooSmall(issue))];
    case "too_big":
      return [problem(`write ${issue.maximum} or less`)];
    case "invalid_key":
      return issue.issues.map((inner) => ({
        ...problem(inner.message),
        found: JSON.stringify(String(path.at(-1))),
        aboutKey: true,
      }));
    case "invalid_union":
      if (typeof value === "string" && wantsList(issue.errors)) {
        const words = choicesOf(issue.errors);
        const isList = nodesAt(schema, path).some((node) => node.safeParse([value]).success);
        return words.length > 0 && !isList
          ? [problem(`write ${listChoices(words, value)}`)]
          : [problem(describeWanted("array", value, schema, path))];
      }
      if (isOfNoForm(issue.errors)) {
        const mayBeTrue = issue.errors
          .flat()
          .some(
            ({ code, ...one }) => code === "invalid_type" && "expected" in one && one.expected === "boolean",
          );
        if (mayBeTrue && SWITCHES[String(value)] !== undefined)
          return [problem(`write ${SWITCHES[String(value)]}`)];
        const example = exampleAt(schema, path);
        if (example !== undefined) return [problem(`write ${example}`)];
      }
      return chooseBranch(issue.errors).flatMap((inner) => toProblems(inner, path, schema, root));
    default:
      return [problem(issue.message)];
  }
}

function describeTooSmall({ origin, minimum }: { origin: string; minimum: number | bigint }): string {
  if (origin === "array") return "at least one entry is needed";
  return origin === "string" ? "a text that is not empty is needed" : `write ${minimum} or more`;
}

/** How a file that says nothing yet begins. */
const BEGINNING = "mounts: [{ folder: ./public }] (a configuration) or version: 1 (expectations)";
/** Words that mean on and off elsewhere, and are texts in YAML 1.2. */
const SWITCHES: Readonly<Record<string, string>> = { yes: "true", on: "true", no: "false", off: "false" };

/** What kind of value is needed, and what to write: what was written, in a list, where that is right; or an example. */
function describeWanted(
  expected: string,
  value: unknown,
  schema: z.ZodType,
  path: readonly PropertyKey[],
): string {
  if (path.length === 0) return `${describeType(expected)} is needed here: begin with ${BEGINNING}`;
  if (expected === "boolean" && SWITCHES[String(value)] !== undefined)
    return `write ${SWITCHES[String(value)]}`;
  const needed = `${describeType(expected)} is needed here`;
  const example = exampleAt(schema, path);
  const isPlain = ["string", "number"].includes(typeof value);
  if (
    expected === "array" &&
    isPlain &&
    nodesAt(schema, path).some((node) => node.safeParse([value]).success)
  )
    return `${needed}: write [${JSON.stringify(value)}]`;
  return example === undefined ? needed : `${needed}: write ${example}`;
}

// The words that a key may have, where lists are possible, too.
function choicesOf(branches: readonly (readonly Issue[])[]): unknown[] {
  return branches
    .flat()
    .flatMap((one) => (one.code === "invalid_value" && one.path.length === 0 ? one.values : []));
}

// A value that is of none of the forms that a key may have.
function isOfNoForm(branches: readonly (readonly Issue[])[]): boolean {
  return branches
    .flat()
    .every(({ code, path }) => path.length === 0 && (code === "invalid_type" || code === "invalid_value"));
}

/** An example for the key at a path, as it is written in YAML. */
function exampleAt(schema: z.ZodType, path: readonly PropertyKey[]): string | undefined {
  const example = nodesAt(schema, path)
    .map((node) => node.meta()?.example)
    .find((one) => typeof one === "string");
  return example === undefined ? undefined : `${String(path.at(-1))}: ${example}`;
}

// A text was written where a list belongs, and no branch has a word to say of a text.
function wantsList(branches: readonly (readonly Issue[])[]): boolean {
  const issues = branches.flat();
  const isList = (one: Issue): boolean =>
    one.code === "invalid_type" && one.expected === "array" && one.path.length === 0;
  return (
    issues.some(isList) && issues.every(({ code }) => code === "invalid_type" || code === "invalid_value")
  );
}

// The branch of a union that fits best is the one whose problems lie deepest, or that objects to more than the type.
function chooseBranch(branches: readonly (readonly Issue[])[]): readonly Issue[] {
  return [...branches].sort((a, b) => scoreBranch(b) - scoreBranch(a))[0] ?? [];
}

function scoreBranch(issues: readonly Issue[]): number {
  const scores = issues.map((issue) => {
    const depth = issue.path.length * 2;
    if (issue.code === "invalid_union") return depth + Math.max(0, ...issue.errors.map(scoreBranch));
    return depth + (issue.code === "invalid_type" || issue.code === "invalid_value" ? 0 : 1);
  });
  return Math.max(...scores);
}

function unknownKey(key: string, path: readonly PropertyKey[], allowed: readonly string[]): Problem {
  const word = OTHER_WORDS[key.toLowerCase().replace(/[-_]/g, "")];
  const near = word !== undefined && allowed.includes(word) ? word : suggestName(key, allowed);
  return {
    where: formatKeyPath(path),
    path: [...path, key],
    found: `the key ${JSON.stringify(key)}`,
    wanted:
      near === undefined
        ? `the keys allowed here are ${allowed.join(", ")}`
        : `write ${JSON.stringify(near)}`,
    aboutKey: true,
  };
}

function listChoices(values: readonly unknown[], found: string): string {
  const near = suggestName(
    found,
    values.filter((v) => typeof v === "string"),
  );
  return near === undefined ? values.map((v) => JSON.stringify(v)).join(" or ") : JSON.stringify(near);
}

function describeType(expected: string): string {
  const words: Record<string, string> = {
    string: "a text",
    number: "a number",
    int: "a whole number",
    boolean: "true or false",
    array: "a list",
    object: "a group of keys",
    record: "a group of keys",
  };
  return words[expected] ?? expected;
}

/** How a value looks to the person who wrote it, cut to a length that fits in a sentence. */
function formatValue(value: unknown): string {
  if (value === undefined || value === null) return "nothing";
  if (typeof value === "function") return "a function";
  const text = JSON.stringify(value) ?? String(value);
  return text.length > 60 ? `${text.slice(0, 57)}...` : text;
}

function valueAt(root: unknown, path: readonly PropertyKey[]): unknown {
  return path.reduce<unknown>(
    (value, key) => (value as Record<PropertyKey, unknown> | undefined)?.[key],
    root,
  );
}

/** What a schema has at a path: several where it has several forms. */
function nodesAt(schema: z.ZodType, path: readonly PropertyKey[]): z.ZodType[] {
  let nodes: z.ZodType[] = [schema];
  for (const key of path) nodes = nodes.flatMap((node) => step(node, key));
  return nodes;
}

/** The keys a schema allows at a path. */
function keysAt(schema: z.ZodType, path: readonly PropertyKey[]): string[] {
  const nodes = nodesAt(schema, path);
  return [...new Set(nodes.flatMap(unwrap).flatMap((node) => Object.keys(shapeOf(node))))];
}

interface Definition {
  type: string;
  shape?: Record<string, z.ZodType>;
  element?: z.ZodType;
  valueType?: z.ZodType;
  innerType?: z.ZodType;
  options?: z.ZodType[];
}

const definitionOf = (node: z.ZodType): Definition => node._zod.def as unknown as Definition;
const shapeOf = (node: z.ZodType): Record<string, z.ZodType> => definitionOf(node).shape ?? {};

function unwrap(node: z.ZodType): z.ZodType[] {
  const { innerType, options } = definitionOf(node);
  if (innerType !== undefined) return unwrap(innerType);
  return options === undefined ? [node] : options.flatMap(unwrap);
}

function step(node: z.ZodType, key: PropertyKey): z.ZodType[] {
  return unwrap(node).flatMap((inner) => {
    const { shape, element, valueType } = definitionOf(inner);
    const next = shape?.[String(key)] ?? element ?? valueType;
    return next === undefined ? [] : [next];
  });
}
