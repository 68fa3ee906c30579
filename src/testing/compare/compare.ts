import { formatCount } from "../../core/text/size.js";
import { isTextual } from "../../reading/contents/kinds.js";
import type { Asker, Question, Reply } from "../ask/ask.js";
import { doAtATime } from "../ask/at-a-time.js";
import { describeFirstDifference, sameBytes } from "../checks/body.js";
import { markDifference } from "../checks/check.js";
import { readMediaType, readText } from "../checks/content.js";
import { compareFields } from "./fields.js";
import type { Comparison, Pair } from "./pair.js";
import { findReasons } from "./reasons.js";

/** Asks two sites the same, and tells what differs. Never rejects: a question without an answer differs. */
export async function compareSites(
  questions: readonly Question[],
  here: Asker,
  there: Asker,
  onDone?: (done: number) => void,
): Promise<Comparison[]> {
  let done = 0;
  const width = Math.min(here.concurrency, there.concurrency);
  const comparisons = await doAtATime(questions, width, async (question) => {
    const comparison = await compareOne(question, here, there);
    onDone?.(++done);
    return comparison;
  });
  return explainWholePrefixes(comparisons);
}

/** True for a comparison that a person has to look at. */
export function differs({ unanswered, status, fields, body }: Comparison): boolean {
  return (
    unanswered !== undefined ||
    status !== undefined ||
    body !== undefined ||
    fields.some(({ noise }) => !noise)
  );
}

async function compareOne(question: Question, here: Asker, there: Asker): Promise<Comparison> {
  const [a, b] = await Promise.allSettled([here.ask(question), there.ask(question)]);
  if (a.status === "rejected" || b.status === "rejected") {
    const unanswered = { here: reasonOf(a), there: reasonOf(b) };
    return {
      question,
      unanswered,
      status: undefined,
      refused: false,
      fields: [],
      body: undefined,
      reasons: [],
    };
  }
  const pair: Pair = { question, here: a.value, there: b.value };
  const fields = compareFields(pair.here.headers, pair.there.headers, [here.address, there.address]);
  const isSame = pair.here.status === pair.there.status;
  // With another status the body is another one too, and a 304 or a redirect has none that counts.
  const body = isSame && pair.here.status < 300 ? compareBodies(pair) : undefined;
  const status = isSame ? undefined : { here: pair.here.status, there: pair.there.status };
  // Fields of two different kinds of answer differ by nature; only where a redirect leads is of interest.
  const shown = isSame ? fields : fields.filter(({ name }) => name === "location");
  const refused = pair.here.status >= 400 && pair.there.status >= 400;
  const differences = { question, unanswered: undefined, status, refused, fields: shown, body };
  return { ...differences, reasons: findReasons(pair, differences) };
}

function reasonOf(outcome: PromiseSettledResult<Reply>): string | undefined {
  return outcome.status === "rejected" ? (outcome.reason as Error).message : undefined;
}

function compareBodies({ here, there, question }: Pair): Comparison["body"] {
  if (question.method === "HEAD") return undefined;
  const [a, b] = [readText(here), readText(there)];
  if (!a.ok || !b.ok) return { here: a.ok ? "readable" : a.problem, there: b.ok ? "readable" : b.problem };
  if (sameBytes(a.bytes, b.bytes)) return undefined;
  const sizes = [a, b].map(({ bytes }) => `${formatCount(bytes.length)} bytes`);
  if (!isTextual(readMediaType(here.headers)) || !isTextual(readMediaType(there.headers)))
    return { here: sizes[0]!, there: `${sizes[1]}, ${describeFirstDifference(a.bytes, b.bytes)}` };
  const lines = findDifferentLine(a.text ?? "", b.text ?? "");
  return { here: `${sizes[0]}, ${lines[0]}`, there: `${sizes[1]}, ${lines[1]}` };
}

/** Longest piece of a line that is shown, in UTF-16 code units, and how much of it stands before the difference. */
const PIECE = { length: 70, before: 20 };

function findDifferentLine(here: string, there: string): [string, string] {
  const [a, b] = [here.split("\n"), there.split("\n")];
  let line = 0;
  while (line < a.length && line < b.length && a[line] === b[line]) line++;
  const { start } = markDifference(b[line] ?? "", a[line] ?? "");
  const cut = (lines: readonly string[]): string => {
    const text = lines[line];
    if (text === undefined) return `no line ${line + 1}`;
    const from = Math.max(0, start - PIECE.before);
    const piece = text.slice(from, from + PIECE.length).trim();
    return `line ${line + 1}: ${from > 0 ? "…" : ""}${piece}${text.length > from + PIECE.length ? "…" : ""}`;
  };
  return [cut(a), cut(b)];
}

// Where nothing under a prefix answers, each single reason would lead astray.
function explainWholePrefixes(comparisons: readonly Comparison[]): Comparison[] {
  const byPrefix = new Map<string, Comparison[]>();
  for (const one of comparisons) {
    const prefix = /^\/[^/?]+\//.exec(one.question.path)?.[0];
    if (prefix !== undefined) byPrefix.set(prefix, [...(byPrefix.get(prefix) ?? []), one]);
  }
  const reasons = new Map<Comparison, string>();
  for (const [prefix, group] of byPrefix) {
    for (const [has, lacks] of SIDES) {
      const missing = group.filter(({ status }) => status?.[has] === 200 && status[lacks] === 404);
      // An address that both refuse says nothing of what is there.
      const isAll = group.every((one) => missing.includes(one) || one.refused);
      if (missing.length < 3 || !isAll) continue;
      for (const one of missing)
        reasons.set(one, `nothing under ${prefix} is deployed ${lacks}, or it has another prefix`);
    }
  }
  return comparisons.map((one) => (reasons.has(one) ? { ...one, reasons: [reasons.get(one)!] } : one));
}

const SIDES = [
  ["here", "there"],
  ["there", "here"],
] as const;
