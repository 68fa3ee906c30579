import { formatCount } from "../../core/text/size.js";
import type { CaseResult } from "../run.js";

/** The cases of one file or pack, run against one address: what every report is made from. */
export interface Run {
  /** The file, or the packs. */
  readonly title: string;
  /** What was asked: `in process`, or the address. */
  readonly about: string;
  /** The base address, without a slash at its end. */
  readonly address: string;
  readonly inProcess: boolean;
  /** The title is an expectations file. */
  readonly inFile?: boolean;
  /** Milliseconds since the epoch. */
  readonly startedAt: number;
  readonly milliseconds: number;
  readonly results: readonly CaseResult[];
}

export interface Counts {
  readonly total: number;
  readonly passed: number;
  /** Failed, or without an answer. */
  readonly failed: number;
  /** Failed cases without an answer. */
  readonly unanswered: number;
  readonly skipped: number;
  /** Those that do not hold, and that a right server may do without. */
  readonly advised: number;
  /** Those that fail, and that somebody said may fail for now. */
  readonly known: number;
}

export function countResults(results: readonly CaseResult[]): Counts {
  const count = (...outcomes: CaseResult["outcome"][]): number =>
    results.filter(({ outcome }) => outcomes.includes(outcome)).length;
  return {
    total: results.length,
    passed: count("passed"),
    failed: count("failed", "unanswered"),
    unanswered: count("unanswered"),
    skipped: count("skipped"),
    advised: count("advised"),
    known: count("known"),
  };
}

/** True where every case was skipped: such a run shows nothing, and does not pass. */
export function checkedNothing(results: readonly CaseResult[]): boolean {
  return results.every(({ outcome }) => outcome === "skipped");
}

/** The results of a run by the group they are in, in order. */
export function groupResults({ results }: Run): [name: string | undefined, results: CaseResult[]][] {
  const groups = new Map<string | undefined, CaseResult[]>();
  for (const result of results) {
    const before = groups.get(result.case.group);
    if (before === undefined) groups.set(result.case.group, [result]);
    else before.push(result);
  }
  return [...groups];
}

/** Failures that say the same of other addresses: each is told in full once. */
export function gatherAlike(failed: readonly CaseResult[]): CaseResult[][] {
  const groups = new Map<string, CaseResult[]>();
  for (const result of failed) {
    const key = causeOf(result);
    const alike = groups.get(key);
    if (alike === undefined) groups.set(key, [result]);
    else alike.push(result);
  }
  return [...groups.values()];
}

// A server that stopped is one failure, whatever was asked of it; so is one way out of the folder, however it is written.
function causeOf({ case: one, exchanges, outcome }: CaseResult): string {
  const { group, reason, position, question } = one;
  const silent = exchanges.find(({ because }) => because !== undefined)?.because;
  if (outcome === "unanswered" && silent !== undefined) return JSON.stringify(["no answer", silent]);
  const what = exchanges.map(({ differences, because }) => [differences, because]);
  if (group === "path-safety")
    return JSON.stringify([group, reason, what]).replaceAll(JSON.stringify(question.path).slice(1, -1), "");
  return JSON.stringify([group, one.name.replace(question.path, ""), reason, position, what]);
}

/** What could be better, each with the cases that say so: told once, however many addresses it is about. */
export function gatherAdvice(results: readonly CaseResult[]): [advice: string, results: CaseResult[]][] {
  const groups = new Map<string, CaseResult[]>();
  for (const result of results) {
    if (result.outcome !== "advised") continue;
    const { advice = "" } = result.case;
    const before = groups.get(advice);
    if (before === undefined) groups.set(advice, [result]);
    else before.push(result);
  }
  return [...groups];
}

export function speakCounts(counts: Counts): string {
  const { total, passed, failed, unanswered, skipped, advised, known } = counts;
  const cases = `${formatCount(total)} ${total === 1 ? "case" : "cases"}`;
  const rest = `${skipped === 0 ? "" : `, ${formatCount(skipped)} skipped`}${advised === 0 ? "" : `, ${formatCount(advised)} could be better`}${known === 0 ? "" : `, ${formatCount(known)} known to fail`}`;
  const silent = unanswered === 0 ? "" : `, ${formatCount(unanswered)} without an answer`;
  if (failed > 0) return `${formatCount(failed)} of ${cases} failed${silent}${rest}.`;
  return skipped === 0 && advised === 0 && known === 0
    ? `All passed: ${cases}.`
    : `${formatCount(passed)} of ${cases} passed${rest}.`;
}

export function formatMilliseconds(milliseconds: number): string {
  if (milliseconds >= 10_000) return `${(milliseconds / 1000).toFixed(1)} s`;
  return `${milliseconds.toFixed(milliseconds < 9.95 ? 1 : 0)} ms`;
}
