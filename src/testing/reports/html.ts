import { formatCount } from "../../core/text/size.js";
import { type CaseResult, isBad } from "../run.js";
import { renderExchange } from "./html-exchange.js";
import { renderPage, show } from "./page.js";
import {
  type Counts,
  countResults,
  formatMilliseconds,
  gatherAdvice,
  gatherAlike,
  groupResults,
  type Run,
  speakCounts,
} from "./run.js";

/** The results as one HTML page that needs nothing beside it and runs no script. */
export function reportHtml(runs: readonly Run[]): string {
  const results = runs.flatMap((run) => run.results);
  const counts = countResults(results);
  const failed = results.filter(isBad);
  const slowest = results.reduce((most, { milliseconds }) => Math.max(most, milliseconds), 0.1);
  const ids = new Map(results.map((result, index) => [result, `case-${index + 1}`]));
  const context: Context = { slowest, ids, isBrief: results.length > DETAILED_UP_TO };
  const took = runs.reduce((sum, { milliseconds }) => sum + milliseconds, 0);
  const title =
    counts.failed > 0 ? `${counts.failed} of ${counts.total} failed` : `All ${counts.passed} passed`;
  const main = `<header style="${weighBeam(counts)}">
<h1>${speakCounts(counts)}</h1>
<p>${runs.map((run) => `${show(run.title)}, ${show(run.about)}`).join(" · ")} · ${formatTime(runs[0]?.startedAt)}</p>
<dl class="sums">
${sum("passed", counts.passed)}${sum("failed", counts.failed, counts.failed > 0)}${counts.known > 0 ? sum("known to fail", counts.known) : ""}${counts.advised > 0 ? sum("could be better", counts.advised) : ""}${counts.skipped > 0 ? sum("skipped", counts.skipped) : ""}${sum("in all", formatMilliseconds(took))}
</dl>
</header>
${renderContents(runs, results)}${renderFailed(failed, context)}${renderKnown(results, context)}${renderAdvice(results)}${FILTER}${runs.map((run, index) => renderRun(run, index, context)).join("")}
<footer>Written by epistyle check. A case opens to show the request, each field of the answer, and its follow-ups.</footer>`;
  return renderPage({ title: `${title}: expectations`, main });
}

/** What all cases of a report have in common. */
interface Context {
  readonly slowest: number;
  /** Where each case stands in the page. */
  readonly ids: ReadonlyMap<CaseResult, string>;
  /** Lists have a line for each case, without its answers. */
  readonly isBrief: boolean;
}

const count = (number: number, word: string): string =>
  `${formatCount(number)} ${number === 1 ? word : `${word}s`}`;

// Where to find what, for a report that is longer than a screen.
function renderContents(runs: readonly Run[], results: readonly CaseResult[]): string {
  if (results.length < CONTENTS_FROM) return "";
  const causes = gatherAlike(results.filter(isBad)).length;
  const links: [id: string, text: string][] = runs.map((run, index) => [
    `run-${index + 1}`,
    `${run.title}: ${count(run.results.length, "case")}`,
  ]);
  if (gatherAdvice(results).length > 0) links.unshift(["advice", "What could be better"]);
  if (causes > 0) links.unshift(["failed", `What failed: ${count(causes, "cause")}`]);
  return `<nav aria-label="Contents"><ul>${links.map(([id, text]) => `<li><a href="#${id}">${show(text)}</a></li>`).join("")}</ul></nav>\n`;
}

const CONTENTS_FROM = 20;

/** How many causes are told in full; the others stand in the list of cases, each with its first difference. */
const IN_FULL = 12;
/** How many cases of one cause are linked to. */
const LINKED = 12;

// One cause is told once, however many cases it has.
function renderFailed(failed: readonly CaseResult[], context: Context): string {
  if (failed.length === 0) return "";
  const causes = gatherAlike(failed);
  const told = causes.slice(0, IN_FULL).map(([first, ...others]) => {
    const links = others
      .slice(0, LINKED)
      .map((one) => `<a href="#${context.ids.get(one)}">${show(one.case.question.path)}</a>`);
    const more = others.length > LINKED ? ` and ${formatCount(others.length - LINKED)} more` : "";
    const same = others.length === 0 ? "" : `<p class="note same">The same: ${links.join(" ")}${more}</p>\n`;
    return renderCase(first!, context, { isOpen: causes.length <= OPEN_AT_MOST, more: others.length, same });
  });
  const rest =
    causes.length > IN_FULL
      ? `<p class="note">${formatCount(causes.length - IN_FULL)} more causes are in the lists below.</p>\n`
      : "";
  return `<h2 id="failed">What failed</h2>\n${told.join("")}${rest}`;
}

// Apart from what failed: somebody has looked at it.
function renderKnown(results: readonly CaseResult[], context: Context): string {
  const known = results.filter(({ outcome }) => outcome === "known");
  if (known.length === 0) return "";
  const cases = known
    .slice(0, IN_FULL)
    .map((one) => `${renderCase(one, context)}<p class="note because">${show(one.because ?? "")}</p>\n`);
  const rest =
    known.length > IN_FULL
      ? `<p class="note">${formatCount(known.length - IN_FULL)} more are in the lists below.</p>\n`
      : "";
  return `<h2>What is known to fail</h2>\n${cases.join("")}${rest}`;
}

// Without a script: the choice hides what it does not name.
const FILTER = `<fieldset class="filter"><legend>Show</legend>
${["all", "failed", "advice", "skipped", "passed"].map((one, index) => `<label><input type="radio" name="show" id="show-${one}"${index === 0 ? " checked" : ""}> ${one}</label>`).join("\n")}
</fieldset>
`;

/** How many addresses stand beside a piece of advice. */
const ADDRESSES = 5;

// Told once, apart from what failed.
function renderAdvice(results: readonly CaseResult[]): string {
  const advice = gatherAdvice(results).map(([text, all]) => {
    const paths = [...new Set(all.map((one) => one.case.question.path))];
    const more = paths.length > ADDRESSES ? ` and ${formatCount(paths.length - ADDRESSES)} more` : "";
    return `<li>${show(text)}<br><code>${paths.slice(0, ADDRESSES).map(show).join("</code> <code>")}</code>${more}</li>`;
  });
  return advice.length === 0
    ? ""
    : `<h2 id="advice">What could be better</h2>\n<ul class="advice">${advice.join("\n")}</ul>\n`;
}

function sum(name: string, value: number | string, bad = false): string {
  return `<div><dt>${name}</dt><dd${bad ? ' class="bad"' : ""}>${typeof value === "number" ? formatCount(value) : value}</dd></div>`;
}

/** The beam in proportion: what passed, what failed (never too little to be seen), what was skipped. */
function weighBeam({ total, passed, failed }: Counts): string {
  const share = (part: number): number => Math.round((part / Math.max(1, total)) * 1000) / 10;
  const bad = failed === 0 ? 0 : Math.max(1, share(failed));
  const good = Math.min(share(passed), 100 - bad);
  return `--passed:${good}%;--known:${good + bad}%`;
}

/** So few causes show all at once, before somebody opens them. */
const OPEN_AT_MOST = 3;

/** How many cases of a group that passed are listed at once. */
const FOLDED_BEYOND = 30;

function renderRun(run: Run, index: number, context: Context): string {
  const groups = groupResults(run).map(([name, results]) => {
    const counts = countResults(results);
    // What failed is told in full above.
    const list = context.isBrief
      ? inLines(results.map((one) => renderLine(one, context)))
      : results
          .map((one) =>
            isBad(one)
              ? inLines([renderLine(one, context)])
              : renderCase(one, context, { id: context.ids.get(one) }),
          )
          .join("");
    if (name === undefined) return list;
    // A long list in which nothing is amiss opens when somebody wants it.
    const open = counts.failed > 0 || counts.total <= FOLDED_BEYOND;
    return `<details class="group"${open ? " open" : ""}><summary><h3>${show(name)}</h3> <small>${speakCounts(counts)}</small></summary>\n${list}</details>\n`;
  });
  return `<h2 id="run-${index + 1}">${show(run.title)} <small>${show(run.about)}</small></h2>\n${groups.join("")}`;
}

/** With more cases than this, lists have one line a case, without its responses; failures are told in full above them. */
const DETAILED_UP_TO = 200;

const inLines = (lines: readonly string[]): string => `<ul class="lines">\n${lines.join("")}</ul>\n`;

function wordOf({ outcome }: CaseResult): string {
  return { unanswered: "failed", advised: "advice", known: "known" }[outcome as string] ?? outcome;
}

// The first thing that is wrong, or why nothing was asked.
function renderWhy(result: CaseResult): string {
  const bad = result.exchanges.find(
    ({ differences, because }) => differences.length > 0 || because !== undefined,
  );
  const [difference] = bad?.differences ?? [];
  const why =
    difference === undefined
      ? (bad?.because ?? result.because)
      : `${difference.about}: expected ${difference.expected}, got ${difference.got}`;
  return why === undefined || result.outcome === "passed"
    ? ""
    : `<small class="why">${show(why.slice(0, 200))}</small>`;
}

function renderLine(result: CaseResult, { ids }: Context): string {
  const { name, question } = result.case;
  return `<li class="${result.outcome}" id="${ids.get(result)}"><b class="word">${wordOf(result)}</b><span>${show(name)}${renderWhy(result)}</span><span class="req">${show(`${question.method} ${question.path}`)}</span></li>\n`;
}

interface CaseOptions {
  readonly isOpen?: boolean;
  /** How many others have the same cause. */
  readonly more?: number;
  /** Links to these, as HTML. */
  readonly same?: string;
  readonly id?: string | undefined;
}

function renderCase(
  result: CaseResult,
  { slowest }: Context,
  { isOpen = false, more = 0, same = "", id }: CaseOptions = {},
): string {
  const { name, question, reason, position } = result.case;
  const width = Math.max(1, Math.round((result.milliseconds / slowest) * 100));
  const statuses = result.exchanges.map(({ reply }) => reply?.status ?? "none");
  const also = more === 0 ? "" : ` <small>and ${formatCount(more)} more</small>`;
  const time =
    result.outcome === "skipped"
      ? ""
      : `${formatMilliseconds(result.milliseconds)}<i style="width:${width}%"></i>`;
  const notes = [
    result.because,
    reason,
    result.badTimes === undefined ? undefined : `Wrong ${result.badTimes} of ${result.case.times} times.`,
    result.attempts > 1 ? `Asked ${result.attempts} times.` : undefined,
    position === undefined ? undefined : `Written at ${position}`,
  ];
  return `<details class="${result.outcome}"${id === undefined ? "" : ` id="${id}"`}${isOpen ? " open" : ""}>
<summary><span class="word">${wordOf(result)}</span><span>${show(name)}${also}${isBad(result) ? renderWhy(result) : ""}</span><span class="req">${show(`${question.method} ${question.path}`)}</span><span class="st">${statuses[0] ?? ""}</span><span class="ms">${time}</span></summary>
<div class="inside">
${result.exchanges.map(renderExchange).join("")}${notes
  .filter((note) => note !== undefined)
  .map((note) => `<p class="note">${show(note)}</p>\n`)
  .join("")}${same}</div>
</details>
`;
}

function formatTime(startedAt: number | undefined): string {
  if (startedAt === undefined) return "";
  const iso = new Date(startedAt).toISOString();
  return `<time datetime="${iso}">${iso.slice(0, 16).replace("T", " ")} UTC</time>`;
}
