import { formatFieldName } from "../core/fields/grammar.js";
import { formatCount } from "../core/text/size.js";
import type { Changes } from "../lab/shapes.js";
import type { LostAddresses } from "../survey/lost/find-lost.js";
import { formatRules } from "../survey/lost/ready-rules.js";
import { differs } from "../testing/compare/compare.js";
import { gatherComparisons, listFields } from "../testing/compare/gather.js";
import type { Comparison } from "../testing/compare/pair.js";
import { renderPage, show } from "../testing/reports/page.js";

/** What two sites were compared by: their answers, their rules, their files. What was not compared is undefined. */
export interface Compared {
  readonly answers?: { readonly comparisons: readonly Comparison[]; readonly all: boolean } | undefined;
  readonly changes?: Changes | undefined;
  readonly lost?: LostAddresses | undefined;
}

/** How many groups are told, the largest first: with what is below, a browser shows such a page at once. */
const GROUPS_AT_MOST = 60;
/** How many addresses are listed in all groups together; each group lists a few of its own in any case. */
const LISTED = 600;
const LISTED_AT_LEAST = 5;
/** How many lost addresses are listed, and how many lines of rules. */
const LOST_AT_MOST = 400;
const RULES_AT_MOST = 1000;

const STYLE = `
summary b{font-weight:600}
.inside .mono td{width:auto}
.inside .mono tbody th{width:9rem}
.places{margin:.5rem 0 0;padding:0;list-style:none;columns:22rem;column-gap:2rem}
.places li{overflow-wrap:anywhere}
.lost th{width:40%}
pre{margin:.6rem 0 0;padding:.6rem .8rem;background:var(--row);overflow-x:auto}
`;

/** A comparison as one HTML page: what changes or differs, in groups, then the addresses that were lost, with rules that lead on. */
export function reportComparison(
  { here, there }: { readonly here: string; readonly there: string },
  { answers, changes, lost }: Compared,
): string {
  const groups = (answers === undefined ? [] : gatherComparisons(answers.comparisons, answers.all)).toSorted(
    (a, b) => b.length - a.length,
  );
  const different = answers?.comparisons.filter(differs).length ?? changes?.changed ?? 0;
  const total = answers?.comparisons.length ?? changes?.asked;
  const gone = lost?.addresses.length;
  const share = total === undefined || total === 0 ? (gone ? 0 : 1) : 1 - Math.min(1, different / total);
  const sums = [
    answers === undefined ? "" : sum("addresses that differ", different, different > 0),
    changes === undefined ? "" : sum("addresses that change", different, different > 0),
    gone === undefined ? "" : sum("addresses lost", gone, gone > 0),
    total === undefined
      ? ""
      : sum(answers === undefined ? "requests sent to both" : "addresses asked", total),
  ];
  const main = `<header style="--passed:${(share * 100).toFixed(1)}%;--known:100%">
<h1>Comparison</h1>
<p>here: ${show(here)}<br>there: ${show(there)}</p>
<dl class="sums">${sums.join("")}</dl>
</header>
${changes === undefined ? "" : renderChanges(changes)}${answers === undefined ? "" : renderAnswers(groups, answers.all)}${lost === undefined ? "" : renderLost(lost)}
<footer>Written by epistyle compare.${answers === undefined || answers.all ? "" : " Differences of dates, connection fields and fields that proxies add are left out; --all-fields lists them."}</footer>`;
  return renderPage({ title: `${here} and ${there} compared`, main, style: STYLE });
}

function sum(name: string, value: number, bad = false): string {
  return `<div><dt>${name}</dt><dd${bad ? ' class="bad"' : ""}>${formatCount(value)}</dd></div>`;
}

function renderChanges({ sentence, groups, isSampled }: Changes): string {
  const shown = groups.map(({ count, words, here, there, examples }) => {
    const sides = here === there ? [] : [row("here", here), row("there", there)];
    const more = count > examples.length ? [`and ${formatCount(count - examples.length)} more`] : [];
    return group(
      `<b>${formatCount(count)}</b> ${show(words)}`,
      `${table(sides)}${places([...examples, ...more])}`,
    );
  });
  const note = isSampled ? '<p class="note">Other clients than browsers were asked about samples.</p>\n' : "";
  return `<section>\n<h2>What changes</h2>\n<p>${show(sentence)}</p>\n${note}${shown.join("")}</section>\n`;
}

function renderAnswers(groups: readonly (readonly Comparison[])[], all: boolean): string {
  const told = groups.slice(0, GROUPS_AT_MOST);
  const listed = Math.max(LISTED_AT_LEAST, Math.floor(LISTED / Math.max(1, told.length)));
  const shown = told.map((same) => {
    const [first] = same;
    const { question, unanswered, status, body, reasons } = first!;
    const rows = [
      ...(unanswered === undefined
        ? []
        : [both("no answer", unanswered.here ?? "answered", unanswered.there ?? "answered")]),
      ...(status === undefined ? [] : [both("status", String(status.here), String(status.there))]),
      ...listFields(first!, all).map(({ name, here, there }) =>
        both(formatFieldName(name), here ?? "nothing", there ?? "nothing"),
      ),
      ...(body === undefined ? [] : [both("content", body.here, body.there)]),
    ];
    const likely = reasons.map(
      (reason, index) => `<p>${index === 0 ? "Likely" : "Or"}: ${show(reason)}.</p>`,
    );
    const others = same.slice(1).map((one) => one.question.path);
    const more = others.length > listed ? [`and ${formatCount(others.length - listed)} more`] : [];
    const also = others.length === 0 ? "" : ` and ${formatCount(others.length)} more`;
    return group(
      `<code>${show(`${question.method} ${question.path}`)}</code>${also}`,
      `${table(rows, "<thead><tr><td></td><th scope=col>here</th><th scope=col>there</th></tr></thead>")}${likely.join("\n")}${places([...others.slice(0, listed), ...more])}`,
    );
  });
  const none = shown.length === 0 ? "<p>Nothing differs.</p>\n" : "";
  const omitted = groups.slice(told.length).reduce((sum, same) => sum + same.length, 0);
  return `<section>\n<h2>What differs</h2>\n${none}${shown.join("")}${noteOmitted(omitted)}</section>\n`;
}

function renderLost({ addresses, ...rules }: LostAddresses): string {
  if (addresses.length === 0)
    return "<section>\n<h2>Addresses lost</h2>\n<p>Every old address still answers.</p>\n</section>\n";
  const rows = addresses
    .slice(0, LOST_AT_MOST)
    .map(
      ({ address, now }) =>
        `<tr><th scope="row">${show(address)}</th><td>${now === undefined ? "nothing like it" : `${show(now.address)} <small>${show(now.because)}</small>`}</td></tr>`,
    );
  const lines = formatRules(rules).trimEnd().split("\n");
  const ready =
    lines[0] === ""
      ? ""
      : `<h3>Rules for the configuration; check them before you copy them</h3>\n<pre tabindex="0">${lines.slice(0, RULES_AT_MOST).map(show).join("\n")}</pre>\n${noteOmitted(lines.length - RULES_AT_MOST)}`;
  return `<section class="lost">\n<h2>Addresses lost</h2>
<table class="mono"><thead><tr><th scope="col">address</th><th scope="col">probably now</th></tr></thead><tbody>
${rows.join("\n")}
</tbody></table>
${noteOmitted(addresses.length - rows.length)}${ready}</section>
`;
}

/** Says how many are left out; "" where none are. */
function noteOmitted(count: number): string {
  if (count <= 0) return "";
  const are = count === 1 ? "1 more is" : `${formatCount(count)} more are`;
  return `<p class="note">${are} not listed here: --report json has them all.</p>\n`;
}

function group(title: string, inside: string): string {
  return `<details class="group"><summary>${title}</summary>\n<div class="inside">\n${inside}</div></details>\n`;
}

const row = (label: string, text: string): string =>
  `<tr><th scope="row">${label}</th><td>${show(text)}</td></tr>`;
const both = (label: string, here: string, there: string): string =>
  `<tr><th scope="row">${show(label)}</th><td>${show(here)}</td><td>${show(there)}</td></tr>`;
const table = (rows: readonly string[], head = ""): string =>
  rows.length === 0 ? "" : `<table class="mono">${head}<tbody>${rows.join("")}</tbody></table>\n`;
const places = (paths: readonly string[]): string =>
  paths.length === 0
    ? ""
    : `<ul class="places">${paths.map((path) => `<li><code>${show(path)}</code></li>`).join("")}</ul>\n`;
