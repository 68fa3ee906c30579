import { beam, cutToFit, printable, printHeading, type Terminal, wrap } from "../adapters/log/terminal.js";
import { formatCount } from "../core/text/size.js";
import { PACKS_IN_WORDS, type PackName } from "../testing/packs/names.js";
import { describeFailure, type FailureLine } from "../testing/reports/failure.js";
import {
  countResults,
  formatMilliseconds,
  gatherAdvice,
  gatherAlike,
  groupResults,
  type Run,
  speakCounts,
} from "../testing/reports/run.js";
import { type CaseResult, isBad } from "../testing/run.js";

/** In a group with more cases than this, those that passed share one line. */
const LISTED_AT_MOST = 100;
/** How many failures in a row of one `each` get a line each. */
const FAILED_IN_A_ROW = 10;
/** How many failures that differ are told in full. */
const TOLD_AT_MOST = 50;

/** Prints a run for a person: a line a case or pack, then what failed with all that is known of it, the sum last. */
export function reportPretty(terminal: Terminal, run: Run): void {
  printHeading(terminal, `${run.title}, ${run.about}`);
  const groups = groupResults(run).map(([name, results]) => ({ name, results, lines: toLines(results) }));
  const isPack = (name: string | undefined): boolean => name !== undefined && name in PACKS_IN_WORDS;
  const listed = groups.flatMap(({ name, lines }) => (isPack(name) ? [] : shorten(lines)));
  const nameWidth = Math.max(0, ...listed.map((line) => line.name.length));
  for (const { name, results, lines } of groups) {
    if (isPack(name)) {
      printPack(terminal, name as PackName, results);
      continue;
    }
    if (name !== undefined) terminal.print(terminal.colors.bold(printable(name)));
    printLines(terminal, lines, nameWidth);
  }
  const failures = gatherAlike(run.results.filter(isBad));
  for (const alike of failures.slice(0, TOLD_AT_MOST)) printFailure(terminal, alike);
  const untold = failures.slice(TOLD_AT_MOST).flat().length;
  if (untold > 0)
    terminal.print(
      `\n${formatCount(untold)} more ${untold === 1 ? "case" : "cases"} failed in other ways; --report html=FILE shows all.`,
    );
  printKnown(terminal, run.results);
  printAdvice(terminal, run.results);
  terminal.print(beam(terminal));
  const { colors } = terminal;
  const counts = countResults(run.results);
  const sum = speakCounts(counts);
  terminal.print(counts.failed === 0 ? colors.green(sum) : colors.red(sum));
}

function printPack(terminal: Terminal, name: PackName, results: readonly CaseResult[]): void {
  const { total, failed, skipped, advised, known } = countResults(results);
  const { colors } = terminal;
  const asked = total - skipped;
  const passed = asked - advised - known;
  const [word, count] =
    failed > 0
      ? [colors.red("failed "), `${failed} of ${total} cases`]
      : asked === 0
        ? [colors.dim("skipped"), "nothing to ask"]
        : passed > 0
          ? [colors.green("passed "), `${passed} ${passed === 1 ? "case" : "cases"}`]
          : [colors.yellow(known > 0 ? "known  " : "advised"), `${asked} ${asked === 1 ? "case" : "cases"}`];
  const room = (terminal.columns ?? Number.POSITIVE_INFINITY) - 9 - 13 - 17;
  terminal.print(`${word}  ${name.padEnd(13)}${count.padEnd(17)}${cutToFit(PACKS_IN_WORDS[name], room)}`);
  for (const { outcome, case: one, because } of results) {
    if (outcome !== "skipped") continue;
    const wide = (terminal.columns ?? Number.POSITIVE_INFINITY) - 22;
    for (const line of wrap(`${one.name}: ${because}`, wide)) terminal.print(`${" ".repeat(22)}${line}`);
  }
}

/** What is known to fail, a line each, apart from what failed. */
function printKnown(terminal: Terminal, results: readonly CaseResult[]): void {
  const known = results.filter(({ outcome }) => outcome === "known");
  if (known.length > 0) terminal.print();
  for (const { case: one, because } of known) {
    const width = (terminal.columns ?? Number.POSITIVE_INFINITY) - 9;
    const name = printable([one.group, one.name].filter(Boolean).join(": "));
    terminal.print(`${terminal.colors.yellow("known  ")}  ${cutToFit(name, width)}`);
    for (const line of wrap(printable(because ?? ""), width))
      terminal.print(`         ${terminal.colors.dim(line)}`);
  }
}

/** What could be better, told once for all addresses, apart from what failed. */
function printAdvice(terminal: Terminal, results: readonly CaseResult[]): void {
  const { colors } = terminal;
  const width = (terminal.columns ?? Number.POSITIVE_INFINITY) - 9;
  for (const [advice, all] of gatherAdvice(results)) {
    terminal.print();
    for (const [index, line] of wrap(advice, width).entries())
      terminal.print(`${index === 0 ? colors.cyan("advice ") : "       "}  ${line}`);
    const paths = [...new Set(all.map((one) => one.case.question.path))];
    const more = paths.length > ADVISED_PATHS ? ` and ${formatCount(paths.length - ADVISED_PATHS)} more` : "";
    const shown = printable(paths.slice(0, ADVISED_PATHS).join("  ")) + more;
    terminal.print(`         ${colors.dim(cutToFit(shown, width))}`);
  }
}

/** How many addresses stand below a piece of advice. */
const ADVISED_PATHS = 3;

/** A line of the list: a case, or those of one `each` with the same outcome in a row. */
interface ListLine {
  readonly outcome: CaseResult["outcome"];
  readonly name: string;
  readonly milliseconds: number;
  readonly last: string;
}

function printLines(terminal: Terminal, lines: readonly ListLine[], longest: number): void {
  const { colors } = terminal;
  const shown = shorten(lines);
  const passed = lines.length - shown.length;
  if (passed > 0) terminal.print(`${colors.green("passed ")}  ${formatCount(passed)} cases`);
  const nameWidth = Math.min(longest, Math.max(24, (terminal.columns ?? Number.POSITIVE_INFINITY) - 46));
  for (const { outcome, name, milliseconds, last } of shown) {
    const time = outcome === "skipped" ? "" : formatMilliseconds(milliseconds);
    const room = (terminal.columns ?? Number.POSITIVE_INFINITY) - nameWidth - 9 - 2 - 9 - 2;
    const line = `${cutToFit(name, nameWidth).padEnd(nameWidth)}  ${time.padStart(9)}  ${cutToFit(last, Math.max(10, room))}`;
    terminal.print(`${paintOutcome(terminal, outcome)}  ${line.trimEnd()}`);
  }
}

function shorten(lines: readonly ListLine[]): readonly ListLine[] {
  return lines.length > LISTED_AT_MOST ? lines.filter(({ outcome }) => outcome !== "passed") : lines;
}

function toLines(results: readonly CaseResult[]): ListLine[] {
  const lines: ListLine[] = [];
  for (let at = 0; at < results.length; ) {
    const { outcome, case: one, exchanges, because, milliseconds } = results[at]!;
    let end = at + 1;
    while (results[end]?.outcome === outcome && results[end]!.case.position === one.position) end++;
    if (isBad(results[at]!) && end - at <= FAILED_IN_A_ROW) end = at + 1;
    const { path, method } = one.question;
    const request = printable(`${method} ${path}`);
    if (end - at > 1) {
      const all = results.slice(at, end);
      const name = one.name.endsWith(`: ${path}`) ? one.name.slice(0, -path.length - 2) : one.name;
      lines.push({
        outcome,
        name: printable(name),
        milliseconds: spanOf(all),
        last: `${formatCount(all.length)} files, ${outcome === "skipped" ? because : `${request} …`}`,
      });
    } else {
      const more = exchanges.length > 1 ? `  + ${exchanges.length - 1} more` : "";
      lines.push({
        outcome,
        name: printable(one.name),
        milliseconds,
        last: outcome === "skipped" ? (because ?? "") : request + more,
      });
    }
    at = end;
  }
  return lines;
}

/** From the first question to the last answer, in milliseconds: several are in progress at a time. */
function spanOf(results: readonly CaseResult[]): number {
  let [first, last] = [Number.POSITIVE_INFINITY, 0];
  for (const { exchanges, milliseconds } of results) {
    const startedAt = exchanges[0]?.startedAt ?? first;
    first = Math.min(first, startedAt);
    last = Math.max(last, startedAt + milliseconds);
  }
  return Math.max(0, last - first);
}

function paintOutcome({ colors }: Terminal, outcome: CaseResult["outcome"]): string {
  if (outcome === "passed") return colors.green("passed ");
  if (outcome === "advised") return colors.cyan("advice ");
  if (outcome === "known") return colors.yellow("known  ");
  return outcome === "skipped" ? colors.dim("skipped") : colors.red("failed ");
}

/** How many other addresses a failure names. */
const NAMED_AT_MOST = 5;

function printFailure(terminal: Terminal, [result, ...others]: readonly CaseResult[]): void {
  const { colors } = terminal;
  const { name, group } = result!.case;
  terminal.print();
  terminal.print(
    `${colors.red("failed ")}  ${colors.bold(printable([group, name].filter(Boolean).join(": ")))}`,
  );
  const paths = others.map((one) => one.case.question.path);
  const more = paths.length - NAMED_AT_MOST;
  const named = paths.slice(0, NAMED_AT_MOST).map((path, index) => ({
    label: index === 0 ? "the same at" : "",
    word: "",
    text: path,
    tone: "place" as const,
  }));
  const rest = {
    label: "",
    word: "",
    text: `and ${formatCount(more)} more`,
    tone: "place" as const,
  };
  printFailureLines(terminal, [...describeFailure(result!), ...named, ...(more > 0 ? [rest] : [])], 9);
}

/** Prints lines in columns, and marks from below what differs. */
export function printFailureLines(terminal: Terminal, lines: readonly FailureLine[], indent: number): void {
  const labelWidth = Math.max(10, ...lines.map(({ label }) => Math.min(label.length, 28)));
  for (const { label, word, text, mark, tone } of lines) {
    const start = `${" ".repeat(indent)}${cutToFit(printable(label), 28).padEnd(labelWidth)}  ${word === "" ? "" : `${word.padEnd(8)}  `}`;
    const room = Math.max(20, (terminal.columns ?? Number.POSITIVE_INFINITY) - start.length);
    const shown = printable(text);
    if (mark === undefined && tone !== "request" && shown.length > room && shown.includes(" ")) {
      for (const [index, piece] of wrap(shown, room).entries())
        terminal.print(paint(terminal, index === 0 ? start : " ".repeat(start.length), piece, tone));
      continue;
    }
    // A value that is too long goes on below itself: nothing that differs is cut away.
    for (let at = 0; at === 0 || at < shown.length; at += room) {
      const piece = shown.slice(at, at + room);
      terminal.print(paint(terminal, at === 0 ? start : " ".repeat(start.length), piece, tone));
      const from = Math.max(0, (mark?.start ?? 0) - at);
      const to = Math.min(piece.length, (mark?.end ?? 0) - at);
      if (to > from)
        terminal.print(terminal.colors.red(" ".repeat(start.length + from) + "^".repeat(to - from)));
    }
  }
}

function paint({ colors }: Terminal, start: string, text: string, tone: FailureLine["tone"]): string {
  const line = (start + text).trimEnd();
  if (tone === "got") return start + colors.red(text);
  if (tone === "expected") return start + colors.green(text);
  if (tone === "request" || tone === "likely") return start + colors.bold(text);
  return tone === "place" ? colors.dim(line) : line;
}
