import { cutToFit, printable, type Terminal, wrap } from "../adapters/log/terminal.js";
import { formatCount } from "../core/text/size.js";
import type { Finding, FindingGroup, JudgedSurvey, Severity } from "../survey/index.js";
import { describeSum } from "../survey/reports/words.js";
import { groupFindings } from "../survey/survey.js";

/** How many addresses of a kind are shown, unless all are asked for. */
const SHOWN = 3;
const WORDS: Readonly<Record<Severity, string>> = { severe: "severe", warning: "warning", advice: "advice" };

/** The survey for people: the least important first, so that what to act on stands last, above the prompt. */
export function printSurvey(terminal: Terminal, survey: JudgedSurvey, all: boolean): void {
  const { colors } = terminal;
  const width = Math.min(terminal.columns ?? 100, 100);
  const lines = [colors.bold(printable(`Survey of ${survey.subject}`)), colors.cyan("━".repeat(width))];
  for (const group of groupFindings(survey.findings).reverse())
    lines.push(...formatGroup(group, { colors, width, all }), "");
  for (const { code, files } of survey.gone)
    lines.push(`Accepted, but no longer found: ${code} ${files}; remove it from the file.`);
  const sum = describeSum(survey);
  const isBad = survey.findings.some(({ severity }) => severity === "severe");
  lines.push(...wrap(sum, width).map((line) => (isBad ? colors.yellow(line) : line)));
  for (const line of lines) terminal.print(line);
}

interface Look {
  readonly colors: Terminal["colors"];
  readonly width: number;
  readonly all: boolean;
}

function formatGroup(
  { code, severity, title, findings, places, fix }: FindingGroup,
  { colors, width, all }: Look,
): string[] {
  const paint = { severe: colors.red, warning: colors.yellow, advice: colors.cyan }[severity];
  const reasons = new Set(findings.map(({ reason }) => reason));
  const shown = all ? findings : findings.slice(0, SHOWN);
  const from = places === undefined ? "" : ` from ${formatCount(places)} places`;
  const count = findings.length === 1 && from === "" ? "" : ` (${formatCount(findings.length)}${from})`;
  const lines = [`${paint(WORDS[severity].padEnd(8))} ${colors.bold(title)}${count}  ${colors.dim(code)}`];
  if (reasons.size === 1) lines.push(...indent(wrap(findings[0]!.reason, width - INDENT)));
  for (const finding of shown)
    lines.push(
      ...formatFinding(
        finding,
        { withReason: reasons.size > 1, withFix: fix === undefined, all },
        { colors, width },
      ),
    );
  if (shown.length < findings.length)
    lines.push(
      ...indent([colors.dim(`and ${formatCount(findings.length - shown.length)} more; --all shows them`)]),
    );
  if (fix !== undefined) lines.push(...indent(formatFix(fix, { colors, width })));
  return lines;
}

const INDENT = 9;

function formatFinding(
  { address, reason, fix, places = [] }: Finding,
  {
    withReason,
    withFix,
    all,
  }: { readonly withReason: boolean; readonly withFix: boolean; readonly all: boolean },
  look: Pick<Look, "colors" | "width">,
): string[] {
  const lines = [look.colors.cyan(cutToFit(printable(address), look.width - INDENT))];
  if (withReason) lines.push(...wrap(reason, look.width - INDENT - 2).map((line) => `  ${line}`));
  if (all && places.length > 1)
    for (const place of places)
      lines.push(look.colors.dim(`  in ${cutToFit(printable(place.address), look.width - INDENT - 5)}`));
  if (withFix) lines.push(...formatFix(fix, look).map((line) => `  ${line}`));
  return indent(lines);
}

function formatFix(fix: string, { colors, width }: Pick<Look, "colors" | "width">): string[] {
  // A line to copy stays in one piece.
  return [`${colors.dim("fix:")} ${printable(fix)}`].flatMap((line) =>
    fix.includes(". ") ? wrap(line, width - INDENT) : [line],
  );
}

const indent = (lines: readonly string[]): string[] => lines.map((line) => " ".repeat(INDENT) + line);
