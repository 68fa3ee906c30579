import type * as z from "zod";
import { formatFound } from "./found.js";
import { nodesAt } from "./schema-nodes.js";
import { choicesOf, chooseBranch, isOfNoForm, wantsList } from "./union.js";
import { adviseOnKey, type KeyAdvice } from "./unknown-key.js";
import { describeTooSmall, describeWanted, exampleAt, listChoices, switchFor } from "./wanted.js";

/** Something wrong in what a person wrote: where it is, what was found, and what to write instead. */
export interface Problem {
  /** Path of the key, such as `mounts[1].at`. */
  readonly where: string;
  readonly path: readonly PropertyKey[];
  readonly found: string;
  readonly wanted: string;
  /** True when it is about the key's name and not about its value. */
  readonly aboutKey: boolean;
  /** About a key: what was meant by it. */
  readonly advice?: KeyAdvice;
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

/** Compares a value with a schema: the value, or every problem found in it. */
export function validate<Schema extends z.ZodType>(
  schema: Schema,
  value: unknown,
): { ok: true; value: z.output<Schema> } | { ok: false; problems: Problem[] } {
  const result = schema.safeParse(value);
  if (result.success) return { ok: true, value: result.data };
  return {
    ok: false,
    problems: dropEchoes(result.error.issues.flatMap((issue) => toProblems(issue, [], schema, value))),
  };
}

/** Leaves out what follows from another problem: the key that a misspelt one should be, a second word about one value. */
function dropEchoes(problems: readonly Problem[]): Problem[] {
  const wrongKeys = problems.filter(({ aboutKey }) => aboutKey);
  const values = new Set<string>();
  return problems.filter(({ where, path, found, aboutKey }) => {
    if (aboutKey) return true;
    const own = formatKeyPath(path);
    if (values.has(own)) return false;
    values.add(own);
    const above = formatKeyPath(path.slice(0, -1));
    const isMisspelt = wrongKeys.some(
      (one) =>
        formatKeyPath(one.path.slice(0, -1)) === above &&
        (one.advice?.isMisplaced === true || one.advice?.meant === String(path.at(-1))),
    );
    if (found === "nothing" && isMisspelt) return false;
    return !wrongKeys.some((one) => one.where === where && formatKeyPath(one.path.slice(0, -1)) === own);
  });
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
  const problem = (wanted: string, found = formatFound(value)): Problem => ({
    where: formatKeyPath(path),
    path,
    found,
    wanted,
    aboutKey: false,
  });
  switch (issue.code) {
    case "unrecognized_keys":
      return issue.keys.map((key) => {
        const advice = adviseOnKey(key, path, schema);
        const found = `the key ${JSON.stringify(key)}`;
        return { ...problem(advice.wanted, found), path: [...path, key], aboutKey: true, advice };
      });
    case "invalid_type":
      if (issue.expected === "string" && Object.prototype.toString.call(value) === "[object URL]")
        return [problem("a path is a string: write fileURLToPath(url), from node:url", "a URL")];
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
        if (mayBeTrue && switchFor(value) !== undefined) return [problem(`write ${switchFor(value)}`)];
        const example = exampleAt(schema, path);
        if (example !== undefined) return [problem(`write ${example}`)];
      }
      return chooseBranch(issue.errors).flatMap((inner) => toProblems(inner, path, schema, root));
    default:
      return [problem(issue.message)];
  }
}

function valueAt(root: unknown, path: readonly PropertyKey[]): unknown {
  return path.reduce<unknown>(
    (value, key) => (value as Record<PropertyKey, unknown> | undefined)?.[key],
    root,
  );
}
