import { stringify } from "yaml";
import { printable } from "../../core/text/printable.js";
import type { CaseResult } from "../run.js";
import { isBad } from "../run.js";
import { describeFailure, formatFailure } from "./failure.js";
import type { Run } from "./run.js";

/** The results as TAP, version 14: a line a case, and a YAML block for one that failed. */
export function reportTap(runs: readonly Run[]): string {
  const results = runs.flatMap((run) => run.results.map((result) => ({ run, result })));
  const lines = results.map(({ run, result }, index) => formatPoint(run, result, index + 1, runs.length > 1));
  return `TAP version 14\n1..${results.length}\n${lines.join("")}`;
}

function formatPoint(run: Run, result: CaseResult, number: number, several: boolean): string {
  const { group, name } = result.case;
  const title = [several ? `${run.title}, ${run.about}` : undefined, group, name].filter(Boolean).join(": ");
  // A number sign would begin a directive, so it is escaped, and so is the escape.
  const description = printable(title).replace(/[\\#]/g, "\\$&");
  if (result.outcome === "skipped")
    return `ok ${number} - ${description} # SKIP ${printable(result.because ?? "")}\n`;
  if (result.outcome === "advised")
    return `ok ${number} - ${description}\n  ---\n${writeYaml({ advice: result.case.advice }).replace(/^(?=.)/gm, "  ")}  ...\n`;
  // TAP 14: what is expected to fail for now.
  if (result.outcome === "known")
    return `not ok ${number} - ${description} # TODO ${printable(result.because ?? "")}\n${formatBlock(result)}`;
  const point = `${isBad(result) ? "not ok" : "ok"} ${number} - ${description}\n`;
  return isBad(result) ? `${point}${formatBlock(result)}` : point;
}

// YAML may hold these as they are, and a terminal obeys them.
function writeYaml(value: object): string {
  const shown = JSON.parse(JSON.stringify(value), (_key, one) =>
    typeof one === "string" ? showText(one) : one,
  );
  return stringify(shown, { lineWidth: 0 });
}

const showText = (text: string): string => text.split("\n").map(printable).join("\n");

function formatBlock(result: CaseResult): string {
  const differences = result.exchanges.flatMap((exchange) =>
    exchange.differences.map(({ about, expected, got }) => ({
      request: `${exchange.question.method} ${exchange.question.path}`,
      about,
      expected,
      got,
    })),
  );
  const unanswered = result.exchanges.find(({ because }) => because !== undefined)?.because;
  const block = {
    message:
      unanswered ??
      `${differences[0]?.about}: expected ${differences[0]?.expected}, got ${differences[0]?.got}`,
    at: result.case.position,
    reason: result.case.reason,
    duration_ms: Math.round(result.milliseconds * 10) / 10,
    differences: differences.length === 0 ? undefined : differences,
    explanation: formatFailure(describeFailure(result)),
  };
  const yaml = writeYaml(block).trimEnd();
  return `  ---\n${yaml.replace(/^/gm, "  ")}\n  ...\n`;
}
