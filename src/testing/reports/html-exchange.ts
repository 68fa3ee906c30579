import { formatFieldName } from "../../core/fields/grammar.js";
import type { Block } from "../../inspection/explain/blocks.js";
import { describeSent, listSent } from "../ask/ask.js";
import { type Difference, markDifference } from "../checks/check.js";
import type { Exchange, ReplySummary } from "../run.js";
import { show } from "./page.js";

/** A request with its answer: what differs first, then how it came about, then the whole answer. */
export function renderExchange(exchange: Exchange): string {
  const { name, question, reply, because, differences, explanation } = exchange;
  const sent = [
    ...listSent(question.headers).map(([field, value]) => `${field}: ${value}`),
    ...(question.body === undefined ? [] : [describeSent(question.body)]),
  ];
  const fields = sent.map((text) => `<br><code>${show(text)}</code>`);
  const how = `<p class="what">How it came about</p>\n<dl class="how">${explanation.map(renderBlock).join("")}</dl>\n`;
  return `<p class="what">${show(name ?? "Request")}</p>
<code>${show(`${question.method} ${question.path}`)}</code>${fields.join("")}
${because === undefined ? "" : `<p class="note bad">No answer: ${show(because)}</p>\n`}${differences.length === 0 ? "" : renderDifferences(differences)}${explanation.length === 0 ? "" : how}${reply === undefined ? "" : renderReply(reply, differences.length > 0)}`;
}

function renderDifferences(differences: readonly Difference[]): string {
  return `<table class="mono"><thead><tr><td></td><th scope="col">Expected</th><th scope="col">Got</th></tr></thead><tbody>
${differences.map(renderDifference).join("\n")}
</tbody></table>
`;
}

// Beside what differs the rest of an answer is for reference, and opens when somebody wants it.
function renderReply(reply: ReplySummary, folded: boolean): string {
  const rows: [string, string][] = [
    ["status", String(reply.status)],
    ...Object.entries(reply.headers).map(([name, value]): [string, string] => [formatFieldName(name), value]),
    ["body", reply.body],
    ...(reply.answeredBy === undefined ? [] : [["answered by", reply.answeredBy] as [string, string]]),
  ];
  const table = `<table class="mono answer"><tbody>
${rows.map(([name, value]) => `<tr><th scope="row">${show(name)}</th><td>${show(value)}</td></tr>`).join("\n")}
</tbody></table>
`;
  return folded ? `<details class="whole"><summary>The whole answer</summary>\n${table}</details>\n` : table;
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
  const lines = rows.map(
    (row) =>
      `<div>${row
        .filter(Boolean)
        .map((cell) => `<span>${show(cell)}</span>`)
        .join(" ")}</div>`,
  );
  return `<dt>${show(title)}</dt><dd>${lines.join("")}</dd>`;
}
