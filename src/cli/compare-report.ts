import { beam, printable, printHeading, type Terminal, wrap } from "../adapters/log/terminal.js";
import { formatFieldName } from "../core/fields/grammar.js";
import { formatCount } from "../core/text/size.js";
import { markDifference } from "../testing/checks/check.js";
import { differs } from "../testing/compare/compare.js";
import { gatherComparisons, listFields } from "../testing/compare/gather.js";
import type { Comparison } from "../testing/compare/pair.js";
import type { FailureLine } from "../testing/reports/failure.js";
import { printFailureLines } from "./check-report.js";

interface Names {
  readonly here: string;
  readonly there: string;
}

/** Prints what differs, each difference once however many addresses have it, with the likely reason; the sum last. */
export function printComparisons(
  terminal: Terminal,
  comparisons: readonly Comparison[],
  names: Names,
  allFields: boolean,
): void {
  const { colors } = terminal;
  printHeading(terminal, `here   ${names.here}\nthere  ${names.there}`);
  const groups = gatherComparisons(comparisons, allFields);
  for (const [index, group] of groups.entries()) {
    if (index > 0) terminal.print();
    printGroup(terminal, group, allFields);
  }
  if (groups.length > 0) terminal.print(beam(terminal));
  const different = comparisons.filter(differs).length;
  const total = `${comparisons.length} ${comparisons.length === 1 ? "address" : "addresses"}`;
  const hidden = comparisons.reduce((sum, { fields }) => sum + fields.filter(({ noise }) => noise).length, 0);
  const count = `${formatCount(hidden)} ${hidden === 1 ? "difference" : "differences"} of dates, connection fields and the like`;
  const note = allFields
    ? `${count} ${hidden === 1 ? "is" : "are"} listed, and not counted.`
    : `${count} ${hidden === 1 ? "is" : "are"} left out; --all-fields lists ${hidden === 1 ? "it" : "them"}.`;
  const nothing = hidden > 0 && allFields ? "No important difference" : "Nothing differs";
  const sum = different === 0 ? `${nothing}: ${total}.` : `${different} of ${total} differ.`;
  terminal.print((different === 0 ? colors.green : colors.red)(sum));
  for (const line of hidden === 0 ? [] : wrap(note, terminal.columns ?? 100))
    terminal.print(colors.dim(line));
}

const NAMED_AT_MOST = 5;

function printGroup(terminal: Terminal, group: readonly Comparison[], allFields: boolean): void {
  const [first] = group;
  const { question, unanswered, status, body, reasons } = first!;
  const { colors } = terminal;
  const more = group.length === 1 ? "" : `, and ${group.length - 1} more`;
  terminal.print(
    `${colors.red("differs")}  ${colors.bold(printable(`${question.method} ${question.path}`))}${more}`,
  );
  const lines: FailureLine[] = [];
  const both = (label: string, here: string, there: string, comparable: boolean): void => {
    const mark = comparable ? markDifference(here, there) : undefined;
    lines.push({ label, word: "here", text: here, tone: "explanation" });
    lines.push({
      label: "",
      word: "there",
      text: there,
      tone: "got",
      mark: mark && mark.end > mark.start ? mark : undefined,
    });
  };
  if (unanswered !== undefined)
    both("no answer", unanswered.here ?? "answered", unanswered.there ?? "answered", false);
  if (status !== undefined) both("status", String(status.here), String(status.there), false);
  for (const { name, here, there } of listFields(first!, allFields))
    both(
      formatFieldName(name),
      here ?? "nothing",
      there ?? "nothing",
      here !== undefined && there !== undefined,
    );
  if (body !== undefined) both("content", body.here, body.there, false);
  for (const [index, reason] of reasons.entries())
    lines.push({ label: index === 0 ? "likely" : "or", word: "", text: reason, tone: "likely" });
  const others = group.slice(1).map((one) => one.question.path);
  for (const [index, path] of others.slice(0, NAMED_AT_MOST).entries())
    lines.push({ label: index === 0 ? "also" : "", word: "", text: path, tone: "place" });
  if (others.length > NAMED_AT_MOST)
    lines.push({ label: "", word: "", text: `and ${others.length - NAMED_AT_MOST} more`, tone: "place" });
  printFailureLines(terminal, lines, 9);
}

/** The comparison as JSON, for programs. */
export function toComparisonJson(
  comparisons: readonly Comparison[],
  names: Names,
  allFields: boolean,
): object {
  return {
    version: 1,
    ...names,
    total: comparisons.length,
    different: comparisons.filter(differs).length,
    comparisons: comparisons.map((one) => ({
      request: one.question,
      differs: differs(one),
      unanswered: one.unanswered,
      status: one.status,
      fields: listFields(one, allFields),
      body: one.body,
      reasons: one.reasons,
    })),
  };
}
