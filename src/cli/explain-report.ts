import { beam, cutToFit, printable, printHeading, type Terminal, wrap } from "../adapters/log/terminal.js";
import type { SiteRequest } from "../core/request/request.js";
import { type Row, toBlocks } from "../inspection/explain/blocks.js";
import { describeAnswer, describeStatus } from "../inspection/explain/outcome.js";
import type { Explanation } from "../site/site.js";

/** Prints an explanation: first what a person asked, which is what answers, why, and what to do; then how it came about. */
export function printExplanation(
  terminal: Terminal,
  request: SiteRequest,
  explanation: Explanation,
  { all, isForApplication }: { readonly all: boolean; readonly isForApplication: boolean },
): void {
  const { answer, why, hints, trace, bytes } = explanation;
  printHeading(terminal, `${request.method} ${printable(request.target)}: ${describeStatus(answer)}`);
  printWrapped(terminal, "answer", describeAnswer(answer, trace));
  printWrapped(terminal, "why", why);
  if (bytes !== undefined) printWrapped(terminal, "bytes", bytes);
  const word = answer.kind === "response" && answer.status < 400 ? "note" : "fix";
  for (const [index, hint] of hints.entries()) printWrapped(terminal, index === 0 ? word : "or", hint);
  if (isForApplication)
    printWrapped(
      terminal,
      "behind",
      "If an application is behind the site, it gets this request: --behind shows that.",
    );
  terminal.print(beam(terminal));
  for (const { title, rows } of toBlocks(explanation, { all })) printBlock(terminal, title, rows);
}

/** An explanation as JSON: plain data, with the sentences that the terminal shows. */
export function toJson(request: SiteRequest, { answer, trace, why, hints, bytes }: Explanation): object {
  return {
    request,
    outcome: answer.kind,
    status: answer.kind === "pass" ? undefined : answer.status,
    file: answer.kind === "pass" ? undefined : answer.file,
    reason: answer.reason,
    why,
    hints,
    bytes,
    trace,
  };
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
  const lines = wrap(text, room);
  for (const [index, line] of lines.entries()) {
    terminal.print(`${terminal.colors.bold((index === 0 ? title : "").padEnd(TITLE_WIDTH))}${line}`);
  }
}
