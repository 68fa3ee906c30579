import { STATUS_CODES } from "node:http";
import type { Answer } from "../core/answer/plan.js";
import { describeReason } from "../core/explain/reason.js";
import type { TraceStep } from "../core/explain/trace.js";
import { own } from "../core/text/own.js";
import { listDecidingRules } from "../inspection/explain/decided.js";
import { nameAnswer, nameFile } from "../site/file-names.js";
import type { Explanation } from "../site/site.js";

export type Row = readonly string[];

/** A block of an explanation: what it is about, and rows of aligned columns. */
export interface Block {
  readonly title: string;
  readonly rows: readonly Row[];
}

/**
 * The stages of an explanation in blocks, in the order in which the answer came about; blocks without rows are left out. Of the
 * rules, those that were said somewhere or that decided; `all` shows every one.
 */
export function toBlocks(explanation: Explanation, { all = false } = {}): Block[] {
  const { trace } = explanation;
  const blocks: Block[] = [
    { title: "target", rows: trace.filter((s) => s.stage === "target").map(describeTarget) },
    { title: "mount", rows: trace.filter((s) => s.stage === "mount").map(describeMount) },
    {
      title: "rules",
      rows: trace.filter((s) => s.stage === "rules").flatMap((step) => describeRules(step, explanation, all)),
    },
    { title: "tried", rows: trace.filter((s) => s.stage === "candidate").map(describeCandidate) },
    {
      title: "condition",
      rows: trace.filter((s) => s.stage === "precondition").map(({ field, outcome }) => [field, outcome]),
    },
    {
      title: "variant",
      rows: trace
        .filter((s) => s.stage === "variant")
        .map(({ field, weights, chosen }) => [chosen, `by ${field}: ${weights.join(", ")}`]),
    },
    {
      title: "coding",
      rows: trace
        .filter((s) => s.stage === "representation")
        .map(({ coding = "none", because }) => [coding, because]),
    },
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
 * the reason, and for an error with its most likely causes and what to do.
 */
export function toShortBlocks(explanation: Explanation, about: readonly string[]): Block[] {
  const wanted = new Set(about.map((name) => own(FIELDS_OF, name) ?? name.toLowerCase()));
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

/** What answers, in words: the file as the configuration names it, where a redirect leads, or what is sent for an error. */
export function describeAnswer({ answer, trace }: Explanation): string {
  if (answer.kind === "pass") return "the application behind the site";
  const mounts = trace
    .filter((step) => step.stage === "mount")
    .flatMap(({ at, ...step }) =>
      at === undefined || !("source" in step) ? [] : [{ at, source: step.source }],
    );
  const file = nameAnswer(mounts, answer);
  if (file !== undefined) return file;
  const location = answer.fields.get("location");
  if (location !== undefined) return `a redirect to ${location}`;
  if (answer.reason.code === "listing") return "a list of the directory's files";
  if (answer.status < 400) return "no file";
  const page = trace.findLast((step) => step.stage === "candidate" && step.role === "error page");
  const at = mounts[0]?.at.slice(1) ?? "";
  return page?.stage === "candidate" && page.found === "file"
    ? `no file; ${nameFile(mounts, at === "" ? page.path : `${at}/${page.path}`)} is sent for the error`
    : "no file; the built-in page is sent for the error";
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
  return [step.at, `from ${step.source}`, `path: ${step.path === "" ? "the folder itself" : step.path}`];
}

function describeRules({ area, rules }: Step<"rules">, { answer, trace }: Explanation, all: boolean): Row[] {
  const decided = new Set(listDecidingRules(answer));
  if (trace.some((step) => step.stage === "candidate" && step.role === "error page"))
    decided.add("errorPages");
  if (answer.kind === "response" && answer.fields.has("Content-Encoding")) decided.add("codings");
  const isSaid = (origin: string): boolean => origin !== "default" && origin !== "kind pages";
  const shown = rules.filter(({ name, origin }) => all || isSaid(origin) || decided.has(name));
  const rest = rules.length - shown.length;
  return [
    ...(area === "" && !all ? [] : [["area", area === "" ? "the whole mount" : `/${area}`, ""]]),
    ...shown.map(({ name, value, origin }) => [name, value, origin]),
    ...(rest === 0 ? [] : [[`${rest} more ${rest === 1 ? "is" : "are"} at the default: --all shows them`]]),
  ];
}

function describeCandidate({ role, path, found, reason, diagnosis }: Step<"candidate">): Row {
  const what = found === "file" ? "a file" : found === "directory" ? "a directory" : describeReason(reason!);
  return [role, path === "" ? "." : path, diagnosis === undefined ? what : `${what}: ${diagnosis}`];
}
