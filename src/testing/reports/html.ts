import { escapeHtml } from "../../core/listing/text.js";
import { printable } from "../../site/printable.js";
import { type Difference, markDifference } from "../checks/check.js";
import { formatFieldName } from "../checks/follow-ups.js";
import type { Block } from "../explanation.js";
import { type CaseResult, type Exchange, isBad } from "../run.js";
import { REPORT_STYLE } from "./html-style.js";
import { countResults, groupResults, type Run, speakCounts } from "./run.js";

/** The results as one HTML page that needs nothing beside it and runs no script. */
export function reportHtml(runs: readonly Run[]): string {
  const results = runs.flatMap((run) => run.results);
  const counts = countResults(results);
  const failed = results.filter(isBad);
  const slowest = Math.max(0.1, ...results.map(({ milliseconds }) => milliseconds));
  const took = runs.reduce((sum, { milliseconds }) => sum + milliseconds, 0);
  const title =
    counts.failed > 0 ? `${counts.failed} of ${counts.total} failed` : `All ${counts.passed} passed`;
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${title}: expectations</title>
<style>${REPORT_STYLE}</style>
</head>
<body>
<main>
<header>
<h1>${speakCounts(counts)}</h1>
<p>${runs.map((run) => `${show(run.title)}, ${show(run.about)}`).join(" · ")} · ${formatTime(runs[0]?.startedAt)}</p>
<dl class="sums">
${sum("passed", counts.passed)}${sum("failed", counts.failed, counts.failed > 0)}${counts.skipped > 0 ? sum("skipped", counts.skipped) : ""}${sum("in all", formatMilliseconds(took))}
</dl>
</header>
${failed.length === 0 ? "" : `<h2>What failed</h2>\n${failed.map((one) => renderCase(one, slowest, true)).join("")}`}
${runs.map((run) => renderRun(run, slowest)).join("")}
<footer>Written by epistyle check. A case opens to show the request, each field of the answer, and its follow-ups.</footer>
</main>
</body>
</html>
`;
}

const show = (text: string): string => escapeHtml(printable(text));

function sum(name: string, value: number | string, bad = false): string {
  return `<div><dt>${name}</dt><dd${bad ? ' class="bad"' : ""}>${value.toLocaleString("en-GB")}</dd></div>`;
}

function renderRun(run: Run, slowest: number): string {
  const groups = groupResults(run).map(([name, results]) => {
    const counts = countResults(results);
    const heading =
      name === undefined ? "" : `<h3>${show(name)} <small>${speakCounts(counts)}</small></h3>\n`;
    return heading + results.map((one) => renderCase(one, slowest, false)).join("");
  });
  return `<h2>${show(run.title)} <small>${show(run.about)}</small></h2>\n${groups.join("")}`;
}

function renderCase(result: CaseResult, slowest: number, open: boolean): string {
  const { name, question, reason, position } = result.case;
  const width = Math.max(1, Math.round((result.milliseconds / slowest) * 100));
  const statuses = result.exchanges.map(({ reply }) => reply?.status ?? "none");
  const word = result.outcome === "unanswered" ? "failed" : result.outcome;
  const notes = [
    result.because,
    reason,
    result.attempts > 1 ? `Asked ${result.attempts} times.` : undefined,
    position === undefined ? undefined : `Written at ${position}`,
  ];
  return `<details class="${result.outcome}"${open ? " open" : ""}>
<summary><span class="word">${word}</span><span>${show(name)}</span><span class="req">${show(`${question.method} ${question.path}`)}</span><span class="st">${statuses[0] ?? ""}</span><span class="ms">${formatMilliseconds(result.milliseconds)}<i style="width:${width}%"></i></span></summary>
<div class="inside">
${result.exchanges.map(renderExchange).join("")}${notes
  .filter((note) => note !== undefined)
  .map((note) => `<p class="note">${show(note)}</p>\n`)
  .join("")}</div>
</details>
`;
}

function renderExchange(exchange: Exchange): string {
  const { name, question, reply, because, explanation } = exchange;
  const fields = Object.entries(question.headers).map(
    ([field, value]) => `<br><code>${show(`${field}: ${value}`)}</code>`,
  );
  return `<h4>${show(name ?? "Request")}</h4>
<code>${show(`${question.method} ${question.path}`)}</code>${fields.join("")}
${because === undefined ? "" : `<p class="note bad">No answer: ${show(because)}</p>\n`}${reply === undefined && exchange.differences.length === 0 ? "" : renderReply(exchange)}${explanation.length === 0 ? "" : `<h4>How it came about</h4>\n<dl class="how">${explanation.map(renderBlock).join("")}</dl>\n`}`;
}

// What differs stands first, side by side; the rest of the answer follows for reference.
function renderReply({ reply, differences }: Exchange): string {
  const about = new Set(differences.map((one) => one.about.toLowerCase()));
  const got: [string, string][] =
    reply === undefined
      ? []
      : [
          ["status", String(reply.status)],
          ...Object.entries(reply.headers).map(([name, value]): [string, string] => [
            formatFieldName(name),
            value,
          ]),
          ["body", reply.body],
          ...(reply.answeredBy === undefined ? [] : [["answered by", reply.answeredBy] as [string, string]]),
        ];
  const same = got
    .filter(([name]) => !about.has(name.toLowerCase()))
    .map(
      ([name, value]) =>
        `<tr class="same"><th scope="row">${show(name)}</th><td></td><td>${show(value)}</td></tr>`,
    );
  return `<table class="mono"><thead><tr><th></th><th scope="col">Expected</th><th scope="col">Got</th></tr></thead><tbody>
${[...differences.map(renderDifference), ...same].join("\n")}
</tbody></table>
`;
}

function renderDifference({ about, expected, got, comparable }: Difference): string {
  const [left, right] = comparable
    ? [markPart(expected, markDifference(got, expected)), markPart(got, markDifference(expected, got))]
    : [show(expected), `<mark>${show(got)}</mark>`];
  return `<tr class="differs"><th scope="row">${show(about)}</th><td>${left}</td><td>${right}</td></tr>`;
}

function markPart(text: string, { start, end }: { start: number; end: number }): string {
  if (end <= start) return show(text);
  return `${show(text.slice(0, start))}<mark>${show(text.slice(start, end))}</mark>${show(text.slice(end))}`;
}

function renderBlock({ title, rows }: Block): string {
  return `<dt>${show(title)}</dt><dd>${rows.map((row) => show(row.filter(Boolean).join("  "))).join("<br>")}</dd>`;
}

export function formatMilliseconds(milliseconds: number): string {
  if (milliseconds >= 10_000) return `${(milliseconds / 1000).toFixed(1)} s`;
  return `${milliseconds.toFixed(milliseconds < 10 ? 1 : 0)} ms`;
}

function formatTime(startedAt: number | undefined): string {
  if (startedAt === undefined) return "";
  const iso = new Date(startedAt).toISOString();
  return `<time datetime="${iso}">${iso.slice(0, 16).replace("T", " ")} UTC</time>`;
}
