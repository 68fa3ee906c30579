import { own } from "../../core/text/own.js";
import { readJson } from "../../reading/json.js";
import type { Seen } from "../checks/check.js";
import { readText } from "../checks/content.js";
import { compileExpectation } from "../checks/expectation.js";
import type { FollowUp, NextQuestion } from "../checks/follow-ups.js";
import { compileFurther } from "../checks/further.js";
import { valueAtPointer } from "../checks/json-at.js";
import { holdAgainst, TOOK_TOO_LONG } from "../checks/pattern.js";
import { toPath } from "../discover/crawl.js";
import { readRequests } from "./request.js";
import type { WrittenGroup, WrittenMemory, WrittenStep } from "./schema-case.js";
import { showPattern, toExpression } from "./schema-texts.js";

type Remembered = Readonly<Record<string, WrittenMemory>>;
type Values = ReadonlyMap<string, string>;

/** What the steps of a case are made with. */
export interface StepContext {
  readonly folder: string;
  readonly group: WrittenGroup | undefined;
}

/** The steps behind a case as a follow-up: each is asked with what was remembered before. Undefined where there are none. */
export function compileSteps(
  steps: readonly WrittenStep[],
  remember: Remembered,
  context: StepContext,
  before: Values = new Map(),
): FollowUp[] {
  const [step, ...rest] = steps;
  if (step === undefined) return [];
  return [
    {
      name: "then",
      plan(seen) {
        const values = new Map(before);
        for (const [name, written] of Object.entries(remember)) {
          const remembered = takeValue(seen, written);
          if ("problem" in remembered)
            return { expected: describeRemembered(name, written), problem: remembered.problem };
          values.set(name, remembered.value);
        }
        return planStep(fillIn(step, values), seen, context, (own) =>
          compileSteps(rest, own.remember ?? {}, context, values),
        );
      },
    },
  ];
}

function planStep(
  step: WrittenStep,
  { address, question: from }: Seen,
  { folder, group }: StepContext,
  further: (step: WrittenStep) => FollowUp[],
): readonly NextQuestion[] | { problem: string; expected: string } {
  const [question] = readRequests(step.request, { name: "", cases: [], request: group?.request });
  const path = question === undefined ? undefined : resolve(question.path, address, from.path);
  if (question === undefined || path === undefined)
    return { expected: "an address of this site to ask next", problem: question?.path ?? "nothing" };
  const expect = step.expect ?? {};
  return [
    {
      name: step.name ?? `then ${question.method} ${path}`,
      question: { ...question, path },
      checks: compileExpectation(expect, folder),
      followUps: [...compileFurther(expect), ...further(step)],
    },
  ];
}

// What was remembered may be relative to the answer it stood in, or whole.
function resolve(written: string, address: string, from: string): string | undefined {
  if (written === "*") return written;
  const base = address + (from.startsWith("/") ? from : "/");
  const text = written.startsWith("/") && !written.startsWith("//") ? address + written : written;
  return URL.canParse(text, base)
    ? toPath(new URL(text, base).href.replace(/#.*$/s, ""), address)
    : undefined;
}

function describeRemembered(name: string, { field, matches, pointer }: WrittenMemory): string {
  const where = field === undefined ? "the body" : `the field ${field}`;
  const what = [
    ...(pointer === undefined ? [] : [`at ${pointer}`]),
    ...(matches === undefined ? [] : [`by ${showPattern(matches)}`]),
  ].join(" ");
  return `a value for ${name}, from ${where}${what === "" ? "" : ` ${what}`}`;
}

function takeValue(
  seen: Seen,
  { field, matches, pointer }: WrittenMemory,
): { value: string } | { problem: string } {
  const content = field === undefined ? readText(seen.reply) : undefined;
  if (content !== undefined && !content.ok) return { problem: content.problem };
  let text =
    field === undefined ? (content as { text?: string }).text : own(seen.reply.headers, field.toLowerCase());
  if (text === undefined) return { problem: `no field ${field}` };
  if (pointer !== undefined) {
    const found = readPointer(text, pointer);
    if (found === undefined) return { problem: "nothing there, or no JSON" };
    text = found;
  }
  if (matches === undefined) return { value: text };
  const pattern = toExpression(matches, "s");
  const outcome = holdAgainst(pattern, text);
  if (outcome !== "matches") return { problem: outcome === "takes too long" ? TOOK_TOO_LONG : "no match" };
  const match = pattern.exec(text)!;
  return { value: match[1] ?? match[0] };
}

function readPointer(text: string, pointer: string): string | undefined {
  const read = readJson(text);
  const value = read.ok ? valueAtPointer(read.value, pointer) : undefined;
  return value === undefined || typeof value === "string" ? value : JSON.stringify(value);
}

/** The value with what was remembered put in: `${name}` in any text of it. */
function fillIn<Value>(value: Value, values: Values): Value {
  if (typeof value === "string")
    return value.replace(/\$\{(\w+)\}/g, (use, name) => values.get(name) ?? use) as Value;
  if (Array.isArray(value)) return value.map((one) => fillIn(one, values)) as Value;
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, fillIn(one, values)])) as Value;
}
