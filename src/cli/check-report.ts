import type { CaseResult } from "../testing/run.js";
import { beam, cutToFit, printable, printHeading, type Terminal } from "./terminal.js";

/** Prints the results for a person: a line a case, the differences of a failing one below it, the sum last. */
export function reportPretty(terminal: Terminal, title: string, results: readonly CaseResult[]): void {
  const { colors } = terminal;
  printHeading(terminal, title);
  const longest = Math.max(...results.map((r) => r.case.name.length));
  const nameWidth = Math.min(longest, Math.max(24, (terminal.columns ?? Number.POSITIVE_INFINITY) - 44));
  for (const result of results) {
    const passed = result.outcome === "passed";
    const word = passed ? colors.green("passed") : colors.red("failed");
    const name = cutToFit(printable(result.case.name), nameWidth).padEnd(nameWidth);
    const request = printable(`${result.case.method} ${result.case.path}`);
    const time = `${result.milliseconds.toFixed(1)} ms`.padStart(9);
    const room = (terminal.columns ?? Number.POSITIVE_INFINITY) - nameWidth - 8 - 2 - time.length - 2;
    terminal.print(`${word}  ${name}  ${time}  ${cutToFit(request, Math.max(10, room))}`.trimEnd());
    if (!passed) printFailure(terminal, result);
  }
  terminal.print(beam(terminal));
  const failed = results.filter(({ outcome }) => outcome !== "passed").length;
  const count = `${results.length} ${results.length === 1 ? "case" : "cases"}`;
  terminal.print(
    failed === 0 ? colors.green(`All passed: ${count}.`) : colors.red(`${failed} of ${count} failed.`),
  );
}

function printFailure(terminal: Terminal, result: CaseResult): void {
  const { colors } = terminal;
  const put = (label: string, word: string, value: string): void => {
    const indent = `  ${label.padEnd(24)} ${word.padEnd(10)}`;
    const room = (terminal.columns ?? Number.POSITIVE_INFINITY) - indent.length;
    terminal.print(indent + cutToFit(printable(value), Math.max(20, room)));
  };
  if (result.outcome === "unanswered") put("no answer", "", result.because);
  if (result.outcome === "failed") {
    for (const { about, expected, got } of result.differences) {
      put(about, "expected", expected);
      put("", "got", got);
    }
    if (result.reply.why !== undefined) put("answered by", "", result.reply.why);
  }
  terminal.print(colors.dim(`  written at               ${result.case.position}`));
}
