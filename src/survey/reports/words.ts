import { formatCount } from "../../core/text/size.js";
import type { Finding, Severity } from "../finding.js";
import type { JudgedSurvey } from "./json.js";

/** What findings of a severity are called. */
export const NOUNS: Readonly<Record<Severity, string>> = {
  severe: "severe",
  warning: "warnings",
  advice: "advice",
};

export function countBySeverity(findings: readonly Finding[]): Record<Severity, number> {
  const counts = { severe: 0, warning: 0, advice: 0 };
  for (const { severity } of findings) counts[severity]++;
  return counts;
}

/** The sum of a survey in a sentence. */
export function describeSum({ findings, files, folders, accepted, gone }: JudgedSurvey): string {
  const { severe, warning, advice } = countBySeverity(findings);
  const parts = [
    severe > 0 ? `${formatCount(severe)} severe` : "",
    warning > 0 ? `${formatCount(warning)} ${warning === 1 ? "warning" : "warnings"}` : "",
    advice > 0 ? `${formatCount(advice)} ${advice === 1 ? "piece" : "pieces"} of advice` : "",
  ].filter(Boolean);
  const looked = `${formatCount(files)} ${files === 1 ? "file" : "files"} in ${formatCount(folders)} ${folders === 1 ? "folder" : "folders"} can be reached`;
  const known = accepted === 0 ? "" : `; ${formatCount(accepted)} accepted`;
  const found = parts.length > 0 ? parts.join(", ") : accepted > 0 ? "No new findings" : "No findings";
  const old =
    gone.length === 0
      ? ""
      : ` ${gone.length} accepted ${gone.length === 1 ? "entry no longer occurs" : "entries no longer occur"}.`;
  return `${found}${known}. ${looked}.${old}`;
}
