import { STATUS_CODES } from "node:http";
import type { Answer } from "../core/answer/plan.js";
import { describeReason } from "../core/explain/reason.js";
import type { TraceStep } from "../core/explain/trace.js";
import type { Explanation } from "../site/site.js";

export type Row = readonly string[];

/** A block of an explanation: what it is about, and rows of aligned columns. */
export interface Block {
  readonly title: string;
  readonly rows: readonly Row[];
}

/** An explanation in blocks, in the order in which the answer came about. Blocks without rows are left out. */
export function toBlocks({ answer, trace }: Explanation): Block[] {
  const blocks: Block[] = [
    { title: "target", rows: trace.filter((s) => s.stage === "target").map(describeTarget) },
    { title: "mount", rows: trace.filter((s) => s.stage === "mount").map(describeMount) },
    { title: "rules", rows: trace.filter((s) => s.stage === "rules").flatMap(describeRules) },
    { title: "tried", rows: trace.filter((s) => s.stage === "candidate").map(describeCandidate) },
    {
      title: "condition",
      rows: trace.filter((s) => s.stage === "precondition").map(({ field, outcome }) => [field, outcome]),
    },
    {
      title: "coding",
      rows: trace
        .filter((s) => s.stage === "representation")
        .map(({ coding = "none", because }) => [coding, because]),
    },
    { title: "chosen", rows: [[describeChoice(answer)]] },
    {
      title: "fields",
      rows: trace
        .filter((s) => s.stage === "field")
        .map(({ name, value, because }) => [name, value, because]),
    },
  ];
  return blocks.filter(({ rows }) => rows.length > 0);
}

/**
 * What of an explanation helps with some differences: how the file was found, and what set the fields that differ. Ends with
 * the reason, and for an error with its likeliest causes and what to do.
 */
export function toShortBlocks(explanation: Explanation, about: readonly string[]): Block[] {
  const wanted = new Set(about.map((name) => FIELDS_OF[name] ?? name.toLowerCase()));
  const { trace, why, hints } = explanation;
  const fields = trace
    .filter((step) => step.stage === "field")
    .filter(({ name }) => wanted.has(name.toLowerCase()))
    .map(({ name, value, because }) => [name, value, because]);
  return [
    ...toBlocks(explanation).filter(
      ({ title }) =>
        ["mount", "tried", "condition"].includes(title) ||
        (title === "coding" && (wanted.has("content-encoding") || wanted.has("vary"))),
    ),
    { title: "set by", rows: fields },
    { title: "why", rows: [[why]] },
    ...hints.slice(0, 2).map((hint, index) => ({ title: index === 0 ? "fix" : "or", rows: [[hint]] })),
  ].filter(({ rows }) => rows.length > 0);
}

const FIELDS_OF: Readonly<Record<string, string>> = {
  "media type": "content-type",
  charset: "content-type",
  caching: "cache-control",
  coding: "content-encoding",
  redirect: "location",
};

export function describeStatus(answer: Answer): string {
  return answer.kind === "pass" ? "passed on" : `${answer.status} ${STATUS_CODES[answer.status] ?? ""}`;
}

type Step<Stage> = Extract<TraceStep, { stage: Stage }>;

function describeTarget(step: Step<"target">): Row {
  if ("problem" in step) return [step.problem.found, describeReason({ code: step.problem.code })];
  const { path, directoryForm, query } = step.target;
  const form = directoryForm ? "a directory's address" : "a file's address";
  return [
    `/${path}${directoryForm && path !== "" ? "/" : ""}`,
    query === "" ? form : `${form}, with the query ${query}`,
  ];
}

function describeMount(step: Step<"mount">): Row {
  if (step.at === undefined) return ["none", `the mounts are at ${step.known.join(", ")}`];
  return [step.at, `from ${step.source}`, `there: ${step.path === "" ? "the folder itself" : step.path}`];
}

function describeRules({ area, rules }: Step<"rules">): Row[] {
  return [
    ["area", area === "" ? "the whole mount" : `/${area}`, ""],
    ...rules.map(({ name, value, origin }) => [name, value, origin]),
  ];
}

function describeCandidate({ role, path, found, reason, diagnosis }: Step<"candidate">): Row {
  const what = found === "file" ? "a file" : found === "directory" ? "a directory" : describeReason(reason!);
  return [role, path === "" ? "." : path, diagnosis === undefined ? what : `${what}: ${diagnosis}`];
}

function describeChoice(answer: Answer): string {
  if (answer.kind === "pass") return "nothing: the request is handed on";
  if (answer.file !== undefined) return answer.file;
  const location = answer.fields.get("location");
  if (location !== undefined) return `a redirect to ${location}`;
  if (answer.body.kind === "file") return "no file; the error page of the rules is sent";
  return answer.status >= 400 ? "no file; the built-in page is sent" : "no file";
}
