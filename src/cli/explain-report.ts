import { STATUS_CODES } from "node:http";
import type { Answer } from "../core/plan.js";
import { describeReason } from "../core/reason.js";
import type { SiteRequest } from "../core/request.js";
import type { TraceStep } from "../core/trace.js";
import type { Explanation } from "../site/open.js";
import { beam, cutToFit, printable, printHeading, type Terminal } from "./terminal.js";

type Row = readonly string[];

/** Prints an explanation in blocks of aligned columns, the thing to act on last. */
export function printExplanation(terminal: Terminal, request: SiteRequest, explanation: Explanation): void {
  const { answer, trace, why, hints } = explanation;
  printHeading(terminal, `${request.method} ${printable(request.target)}: ${describeStatus(answer)}`);
  const blocks: [title: string, rows: Row[]][] = [
    ["target", trace.filter((s) => s.stage === "target").map(describeTarget)],
    ["mount", trace.filter((s) => s.stage === "mount").map(describeMount)],
    ["rules", trace.filter((s) => s.stage === "rules").flatMap(describeRules)],
    ["tried", trace.filter((s) => s.stage === "candidate").map(describeCandidate)],
    [
      "condition",
      trace.filter((s) => s.stage === "precondition").map(({ field, outcome }) => [field, outcome]),
    ],
    ["chosen", [[describeChoice(answer)]]],
    [
      "fields",
      trace.filter((s) => s.stage === "field").map(({ name, value, because }) => [name, value, because]),
    ],
  ];
  for (const [title, rows] of blocks) printBlock(terminal, title, rows);
  terminal.print(beam(terminal));
  printWrapped(terminal, "why", why);
  for (const [index, hint] of hints.entries()) printWrapped(terminal, index === 0 ? "fix" : "or", hint);
}

/** An explanation as JSON: plain data, with the sentences that the terminal shows. */
export function toJson(request: SiteRequest, { answer, trace, why, hints }: Explanation): object {
  return {
    request,
    outcome: answer.kind,
    status: answer.kind === "pass" ? undefined : answer.status,
    file: answer.kind === "pass" ? undefined : answer.file,
    reason: answer.reason,
    why,
    hints,
    trace,
  };
}

function describeStatus(answer: Answer): string {
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
  const at = answer.fields.indexOf("Location");
  if (at >= 0) return `a redirect to ${answer.fields[at + 1]}`;
  if (answer.body.kind === "file") return "no file; the error page of the rules is sent";
  return answer.status >= 400 ? "no file; the built-in page is sent" : "no file";
}

const TITLE_WIDTH = 11;

function printBlock(terminal: Terminal, title: string, rows: readonly Row[]): void {
  const shown = rows.map((row) => row.map(printable));
  const widths = [0, 1].map((column) =>
    Math.min(
      column === 0 ? 28 : 46,
      Math.max(0, ...shown.map((row) => (row.length > column + 1 ? row[column]!.length : 0))),
    ),
  );
  for (const [index, row] of shown.entries()) {
    const cells = row.map((cell, column) =>
      column === row.length - 1 ? cell : cell.padEnd(widths[column] ?? 0),
    );
    const label = (index === 0 ? title : "").padEnd(TITLE_WIDTH);
    const room = (terminal.columns ?? Number.POSITIVE_INFINITY) - TITLE_WIDTH;
    terminal.print(`${terminal.colors.cyan(label)}${cutToFit(cells.join("  ").trimEnd(), room)}`);
  }
}

function printWrapped(terminal: Terminal, title: string, text: string): void {
  const room = Math.min(terminal.columns ?? Number.POSITIVE_INFINITY, 100) - TITLE_WIDTH;
  const lines: string[] = [];
  for (const word of printable(text).split(" ")) {
    const last = lines.at(-1);
    if (last === undefined || last.length + 1 + word.length > room) lines.push(word);
    else lines[lines.length - 1] = `${last} ${word}`;
  }
  for (const [index, line] of lines.entries()) {
    terminal.print(`${terminal.colors.bold((index === 0 ? title : "").padEnd(TITLE_WIDTH))}${line}`);
  }
}
