import type * as z from "zod";
import { own } from "../core/text/own.js";
import { suggestName } from "../core/text/suggest.js";
import { keysAt, nodesAt, unwrap } from "./schema-nodes.js";

/** Words that mean on and off elsewhere, and are texts in YAML 1.2. */
const SWITCHES: Readonly<Record<string, string>> = { yes: "true", on: "true", no: "false", off: "false" };

/** Words that people bring along for a value of another name. */
const OTHER_VALUES: Readonly<Record<string, string>> = {
  downloads: "archive",
  files: "archive",
  mpa: "pages",
  site: "pages",
  spa: "app",
  static: "pages",
};

/** `true` or `false`, if the value is another word for it. */
export const switchFor = (value: unknown): string | undefined =>
  typeof value === "string" ? own(SWITCHES, value.toLowerCase()) : undefined;

/** What kind of value is needed, and what to write: the value itself in its right form, or an example. */
export function describeWanted(
  expected: string,
  value: unknown,
  schema: z.ZodType,
  path: readonly PropertyKey[],
): string {
  if (path.length === 0) return `${describeType(expected)} is needed here: begin with ${beginningOf(schema)}`;
  if (expected === "boolean" && switchFor(value) !== undefined) return `write ${switchFor(value)}`;
  const needed = `${describeType(expected)} is needed here`;
  const inItsForm = convert(expected, value);
  if (inItsForm !== undefined && nodesAt(schema, path).some((node) => node.safeParse(inItsForm).success))
    return `${needed}: write ${JSON.stringify(inItsForm)}`;
  const [, key, rest] = expected === "object" ? (/^([\w$-]+):(\S.*)$/.exec(String(value)) ?? []) : [];
  if (key !== undefined) return `${needed}: write a space after the colon, as in ${key}: ${rest}`;
  const example = exampleAt(schema, path);
  return example === undefined ? needed : `${needed}: write ${example}`;
}

/** What a value would be in the form that is needed: in a list, as a text, or out of its list. */
function convert(expected: string, value: unknown): unknown {
  if (expected === "array" && ["string", "number"].includes(typeof value)) return [value];
  if (expected !== "string") return undefined;
  if (typeof value === "number") return String(value);
  return Array.isArray(value) && value.length === 1 ? value[0] : undefined;
}

/** How a file that says nothing yet begins. */
function beginningOf(schema: z.ZodType): string {
  return keysAt(schema, []).includes("mounts") ? "mounts: [{ folder: ./public }]" : "version: 1";
}

/** An example for the key at a path, as written in YAML. */
export function exampleAt(schema: z.ZodType, path: readonly PropertyKey[]): string | undefined {
  const example = nodesAt(schema, path)
    .flatMap((node) => [node, ...unwrap(node)])
    .map((node) => node.meta()?.example)
    .find((one) => typeof one === "string");
  const key = path.at(-1);
  if (example === undefined || typeof key === "number") return example;
  return `${String(key)}: ${example}`;
}

export function describeTooSmall({ origin, minimum }: { origin: string; minimum: number | bigint }): string {
  if (origin === "array") return "at least one entry is needed";
  return origin === "string" ? "a string that is not empty is needed" : `write ${minimum} or more`;
}

/** The value that was probably meant: the nearest, or the one that has another name elsewhere. */
export function suggestValue(values: readonly unknown[], found: string): string | undefined {
  const texts = values.filter((v) => typeof v === "string");
  return suggestName(found, texts) ?? texts.find((v) => v === own(OTHER_VALUES, found.toLowerCase()));
}

/** The choices of a key, or only the one that was probably meant. */
export function listChoices(values: readonly unknown[], found: string): string {
  const meant = suggestValue(values, found);
  return meant === undefined ? values.map((v) => JSON.stringify(v)).join(" or ") : JSON.stringify(meant);
}

function describeType(expected: string): string {
  const words: Record<string, string> = {
    string: "a string",
    number: "a number",
    int: "a whole number",
    boolean: "true or false",
    array: "a list",
    object: "a group of keys",
    record: "a group of keys",
  };
  return words[expected] ?? expected;
}
