import { XMLBuilder } from "fast-xml-parser";
import { printable } from "../../core/text/printable.js";
import type { CaseResult } from "../run.js";
import { describeFailure, formatFailure } from "./failure.js";
import { countResults, groupResults, type Run } from "./run.js";

const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: "@",
  format: true,
  suppressEmptyNode: true,
});

/** The results as JUnit XML, as CI servers read it: a suite for each group, a failure or error for each case that was not as expected. */
export function reportJunit(runs: readonly Run[]): string {
  const suites = runs.flatMap((run) =>
    groupResults(run).map(([group, results]) => toSuite(run, group, results)),
  );
  const all = runs.flatMap(({ results }) => results);
  const document = {
    "?xml": { "@version": "1.0", "@encoding": "UTF-8" },
    testsuites: {
      "@name": "epistyle check",
      ...countAttributes(all),
      "@time": seconds(runs.reduce((sum, { milliseconds }) => sum + milliseconds, 0)),
      testsuite: suites,
    },
  };
  return builder.build(document);
}

function toSuite(run: Run, group: string | undefined, results: readonly CaseResult[]): object {
  return {
    "@name": clean([run.title, group].filter(Boolean).join(": ")),
    "@timestamp": new Date(run.startedAt).toISOString().replace(/\.\d+Z$/, ""),
    "@hostname": new URL(run.address).hostname,
    ...countAttributes(results),
    "@time": seconds(results.reduce((sum, { milliseconds }) => sum + milliseconds, 0)),
    testcase: results.map((result) => toCase(run, result)),
  };
}

function toCase(run: Run, result: CaseResult): object {
  const [file, line] = splitPosition(result.case.position);
  const base = {
    "@name": clean(result.case.name),
    "@classname": clean([run.title, result.case.group].filter(Boolean).join(": ")),
    "@time": seconds(result.milliseconds),
    ...(file !== undefined && { "@file": clean(file), "@line": line }),
  };
  if (result.outcome === "passed") return base;
  if (result.outcome === "advised") return { ...base, "system-out": clean(result.case.advice ?? "") };
  if (result.outcome === "skipped") return { ...base, skipped: { "@message": clean(result.because ?? "") } };
  if (result.outcome === "known")
    return { ...base, skipped: { "@message": clean(`known to fail: ${result.because}`) } };
  const text = clean(formatFailure(describeFailure(result)));
  const unanswered = result.exchanges.find(({ because }) => because !== undefined)?.because;
  if (unanswered !== undefined)
    return { ...base, error: { "@message": clean(unanswered), "@type": "unanswered", "#text": text } };
  const first = result.exchanges.flatMap(({ differences }) => differences)[0]!;
  const message = clean(`${first.about}: expected ${first.expected}, got ${first.got}`);
  return { ...base, failure: { "@message": message, "@type": "difference", "#text": text } };
}

function countAttributes(results: readonly CaseResult[]): object {
  const { total, failed, unanswered, skipped, known } = countResults(results);
  return {
    "@tests": total,
    "@failures": failed - unanswered,
    "@errors": unanswered,
    "@skipped": skipped + known,
  };
}

function splitPosition(position: string | undefined): [file: string | undefined, line: string | undefined] {
  const match = /^(.*):(\d+):\d+$/.exec(position ?? "");
  return match === null ? [undefined, undefined] : [match[1], match[2]];
}

// XML 1.0 §2.2 has no place for control characters, nor for lone surrogates.
function clean(text: string): string {
  return text.toWellFormed().split("\n").map(printable).join("\n");
}

function seconds(milliseconds: number): string {
  return (milliseconds / 1000).toFixed(4);
}
