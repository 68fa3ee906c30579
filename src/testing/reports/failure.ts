import { formatCount } from "../../core/text/size.js";
import type { Block } from "../../inspection/explain/blocks.js";
import { describeSent, listSent } from "../ask/ask.js";
import { type Difference, markDifference } from "../checks/check.js";
import type { CaseResult, Exchange } from "../run.js";

/** A line of what is said about a case that failed. */
export interface FailureLine {
  /** The first column. */
  readonly label: string;
  /** The second: what the text is. */
  readonly word: string;
  readonly text: string;
  /** The part of the text that differs from what was expected. */
  readonly mark?: { readonly start: number; readonly end: number } | undefined;
  readonly tone: "request" | "expected" | "got" | "explanation" | "likely" | "place";
}

/** Everything a person needs to act on a case that failed: request, expected, got, how it came about, where it is written. */
export function describeFailure(result: CaseResult): FailureLine[] {
  const bad = result.exchanges.filter((one) => one.because !== undefined || one.differences.length > 0);
  const lines = bad.flatMap(describeExchange);
  const { reason, position } = result.case;
  const { times } = result.case;
  if (times !== undefined && result.badTimes !== undefined)
    lines.push(line("times", "", `${result.badTimes} of ${times}; this is the first`, "place"));
  if (result.attempts > 1) lines.push(line("asked", "", `${result.attempts} times`, "place"));
  if (reason !== undefined) lines.push(line("reason", "", reason, "place"));
  if (position !== undefined) lines.push(line("written at", "", position, "place"));
  return lines;
}

function describeExchange(exchange: Exchange): FailureLine[] {
  const { name, because, differences, explanation } = exchange;
  return [
    ...describeRequest(exchange, name),
    ...(because === undefined ? [] : [line("no answer", "", because, "got")]),
    ...differences.flatMap(describeDifference),
    ...describeAnswer(exchange),
    ...explanation.flatMap(describeBlock),
  ];
}

// Where only the body differs, the status tells whether it is the right answer at all.
function describeAnswer({ reply, differences }: Exchange): FailureLine[] {
  const isBodyOnly = differences.length > 0 && differences.every(({ about }) => about === "body");
  if (!isBodyOnly || reply === undefined) return [];
  const type = reply.headers["content-type"] ?? "no Content-Type";
  return [line("answer", "", `${reply.status}, ${type}, ${formatCount(reply.bodyBytes)} bytes`, "place")];
}

function describeRequest({ question }: Exchange, name: string | undefined): FailureLine[] {
  const fields = listSent(question.headers).map(([field, value]) =>
    line("", "", `${field}: ${value}`, "request"),
  );
  const content = question.body === undefined ? [] : [line("", "", describeSent(question.body), "request")];
  return [
    line(name ?? "request", "", `${question.method} ${question.path}`, "request"),
    ...fields,
    ...content,
  ];
}

export function describeDifference({ about, expected, got, comparable }: Difference): FailureLine[] {
  const mark = comparable ? markDifference(expected, got) : undefined;
  return [
    line(about, "expected", expected, "expected"),
    { ...line("", "got", got, "got"), mark: mark !== undefined && mark.end > mark.start ? mark : undefined },
  ];
}

function describeBlock({ title, rows }: Block): FailureLine[] {
  const widths = [0, 1].map((column) =>
    Math.min(40, Math.max(0, ...rows.map((row) => (row.length > column + 1 ? row[column]!.length : 0)))),
  );
  return rows.map((row, index) => {
    const text = row.map((cell, column) =>
      column === row.length - 1 ? cell : cell.padEnd(widths[column] ?? 0),
    );
    return line(index === 0 ? title : "", "", text.join("  "), "explanation");
  });
}

function line(label: string, word: string, text: string, tone: FailureLine["tone"]): FailureLine {
  return { label, word, text, tone };
}

/** The lines as plain text, what differs marked from below. */
export function formatFailure(lines: readonly FailureLine[]): string {
  const labelWidth = Math.max(10, ...lines.map(({ label }) => Math.min(label.length, 30)));
  return lines
    .flatMap(({ label, word, text, mark }) => {
      const start = `${label.padEnd(labelWidth)}  ${word === "" ? "" : `${word.padEnd(8)}  `}`;
      const under =
        mark === undefined ? [] : [" ".repeat(start.length + mark.start) + "^".repeat(mark.end - mark.start)];
      return [(start + text).trimEnd(), ...under];
    })
    .join("\n");
}
