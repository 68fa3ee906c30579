import { formatCount } from "../../core/text/size.js";
import { renderPage, show } from "../../testing/reports/page.js";
import type { Finding, FindingGroup, Severity } from "../finding.js";
import { SEVERITIES } from "../finding.js";
import { groupFindings } from "../survey.js";
import type { JudgedSurvey } from "./json.js";
import { countBySeverity, describeSum, NOUNS } from "./words.js";

/** How many addresses of a kind are shown at once. */
const SHOWN = 20;

const STYLE = `
section{border-bottom:1px solid var(--line);padding:1rem 0 1.2rem}
section h3{margin:0 0 .2rem;display:flex;gap:.75rem;align-items:baseline;flex-wrap:wrap}
section h3 code{font-weight:400;color:var(--quiet)}
section p{margin:.2rem 0 .6rem;max-width:65ch}
.fix{margin:.6rem 0 0;background:var(--row);padding:.45rem .7rem;overflow-wrap:anywhere}
.fix code{font-size:.9rem}
.severe h2{color:var(--gorse)}
`;

/** The survey as a page. */
export function reportHtml(survey: JudgedSurvey): string {
  const counts = countBySeverity(survey.findings);
  const total = Math.max(1, survey.findings.length);
  const severe = (counts.severe / total) * 100;
  const beam =
    survey.findings.length === 0 ? "--passed:100%;--known:100%" : `--passed:0%;--known:${severe.toFixed(1)}%`;
  const groups = groupFindings(survey.findings);
  const listed = Math.max(SHOWN, Math.floor(LISTED / Math.max(1, groups.length)));
  const main = `<header style="${beam}">
<h1>Survey of ${show(survey.subject)}</h1>
<p>${show(describeSum(survey))}</p>
<dl class="sums">
${SEVERITIES.map((severity) => sum(NOUNS[severity], counts[severity], severity === "severe" && counts.severe > 0)).join("")}${sum("files", survey.files)}
</dl>
</header>
${SEVERITIES.map((severity) => renderSeverity(severity, groups, listed)).join("")}
<footer>Written by epistyle survey. Each code is explained in docs/survey.md.</footer>`;
  return renderPage({ title: `Survey of ${survey.subject}`, main, style: STYLE });
}

const HEADINGS: Readonly<Record<Severity, string>> = {
  severe: "Fix before you publish",
  warning: "Look at these",
  advice: "Could be better",
};

function renderSeverity(severity: Severity, groups: readonly FindingGroup[], listed: number): string {
  const own = groups.filter((group) => group.severity === severity);
  if (own.length === 0) return "";
  return `<div class="${severity}"><h2>${HEADINGS[severity]}</h2>\n${own.map((group) => renderGroup(group, listed)).join("")}</div>\n`;
}

/** How many addresses are listed in all: a browser shows such a page at once. */
const LISTED = 1000;

function renderGroup({ code, title, findings, places, fix: common }: FindingGroup, listed: number): string {
  const reasons = new Set(findings.map(({ reason }) => reason));
  const withFix = common === undefined;
  const reason = reasons.size === 1 ? `<p>${show(findings[0]!.reason)}</p>\n` : "";
  const rows = findings.slice(0, SHOWN).map((finding) => renderRow(finding, reasons.size > 1, withFix));
  const folded = findings
    .slice(SHOWN, listed)
    .map((finding) => renderRow(finding, reasons.size > 1, withFix));
  const omitted = Math.max(0, findings.length - Math.max(SHOWN, listed));
  const more =
    folded.length === 0
      ? ""
      : `<details><summary>and ${formatCount(findings.length - SHOWN)} more</summary>\n<table class="mono"><tbody>${folded.join("")}</tbody></table>
${omitted === 0 ? "" : `<p class="note">${formatCount(omitted)} more are not listed here: --report json has them all.</p>\n`}</details>\n`;
  const fix = withFix ? "" : `<p class="fix">Fix: <code>${show(common)}</code></p>\n`;
  return `<section>
<h3>${show(title)} <small>${formatCount(findings.length)}${places === undefined ? "" : ` from ${formatCount(places)} places`}</small> <code>${code}</code></h3>
${reason}<table class="mono"><tbody>
${rows.join("\n")}
</tbody></table>
${more}${fix}</section>
`;
}

function renderRow({ address, reason, fix }: Finding, withReason: boolean, withFix: boolean): string {
  const cells = [withReason ? show(reason) : "", withFix ? `Fix: ${show(fix)}` : ""].filter(Boolean);
  return `<tr><th scope="row">${show(address)}</th><td>${cells.join("<br>")}</td></tr>`;
}

function sum(name: string, value: number, bad = false): string {
  return `<div><dt>${name}</dt><dd${bad ? ' class="bad"' : ""}>${formatCount(value)}</dd></div>`;
}
