import { setTimeout as wait } from "node:timers/promises";
import { type Block, toShortBlocks } from "../inspection/explain/blocks.js";
import { isTextual } from "../reading/contents/kinds.js";
import type { Asker, Question, Reply } from "./ask/ask.js";
import { doAtATime } from "./ask/at-a-time.js";
import type { Case } from "./case.js";
import { NO_FILE, THE_APPLICATION } from "./checks/answerers.js";
import { describeBody } from "./checks/body.js";
import { type Check, type Difference, findDifferences, type Seen } from "./checks/check.js";
import { readMediaType, readText } from "./checks/content.js";
import type { FollowUp } from "./checks/follow-ups.js";

/** An answer as results keep it: without its bytes. */
export interface ReplySummary {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  /** Bytes of the body as it came. */
  readonly bodyBytes: number;
  /** The body in a few words. */
  readonly body: string;
  /** The content, where it is text and texts are kept. */
  readonly text: string | undefined;
  /** The file that answered, or why none did; known in process only. */
  readonly answeredBy: string | undefined;
}

/** One question of a case with what came of it: the case's own, or a follow-up. */
export interface Exchange {
  /** What a follow-up is, in words; undefined for the case's own question. */
  readonly name: string | undefined;
  readonly question: Question;
  /** Undefined when there was no answer. */
  readonly reply: ReplySummary | undefined;
  /** Why there was no answer. */
  readonly because: string | undefined;
  readonly differences: readonly Difference[];
  /** How the answer came about, where it is not as expected and that can be known. */
  readonly explanation: readonly Block[];
  /** When it was asked, in milliseconds since the epoch. */
  readonly startedAt: number;
  readonly milliseconds: number;
}

/** `advised`: it does not hold, and a right server may do without. `known`: it fails, and somebody said that it may for now. */
export type Outcome = "passed" | "failed" | "unanswered" | "skipped" | "advised" | "known";

/** The result of one case. */
export interface CaseResult {
  readonly case: Case;
  readonly outcome: Outcome;
  readonly exchanges: readonly Exchange[];
  /** Why it was skipped, or may fail for now. */
  readonly because: string | undefined;
  readonly milliseconds: number;
  /** How often it was asked; more than one where retries were. */
  readonly attempts: number;
  /** How many of its times were wrong, for a case that is asked several times. */
  readonly badTimes?: number;
}

/** How cases run. */
export interface RunOptions {
  /** Cases in progress at a time; default what the asker says. */
  readonly concurrency?: number | undefined;
  /** Asks nothing more once a case has failed. */
  readonly stopAtFailure?: boolean | undefined;
  /** How often a case that fails is asked again, where it does not say itself; default 0. */
  readonly retries?: number | undefined;
  readonly timeoutMs?: number | undefined;
  /** Keeps texts of answers for a recording. */
  readonly keepTexts?: boolean | undefined;
  /** Fails cases that are advice. */
  readonly strict?: boolean | undefined;
  /** Looks at each result before it is told: a baseline tells known failures from others. */
  readonly judge?: ((result: CaseResult) => CaseResult) | undefined;
  /** Asks nothing more once it is aborted. */
  readonly signal?: AbortSignal | undefined;
  /** Told of each result as it comes. */
  readonly onResult?: ((result: CaseResult, done: number) => void) | undefined;
}

const RETRY_AFTER_MS = 1000;

/** Runs cases. Never rejects for an answer: a case without one has failed, and says why. Results are in the order of the cases. */
export async function runCases(
  cases: readonly Case[],
  asker: Asker,
  options: RunOptions = {},
): Promise<CaseResult[]> {
  let [done, stopped] = [0, false];
  const width = options.concurrency ?? asker.concurrency;
  return doAtATime(cases, width, async (one) => {
    const told = options.signal?.aborted
      ? skip(one, "not asked: the run was stopped")
      : stopped
        ? skip(one, "not asked: an earlier case had failed")
        : await runCase(one, asker, { ...options, concurrency: width });
    const result = options.judge?.(told) ?? told;
    if (options.stopAtFailure && isBad(result)) stopped = true;
    options.onResult?.(result, ++done);
    return result;
  });
}

export function isBad({ outcome }: CaseResult): boolean {
  return outcome === "failed" || outcome === "unanswered";
}

function skip(one: Case, because: string): CaseResult {
  return { case: one, outcome: "skipped", exchanges: [], because, milliseconds: 0, attempts: 0 };
}

function failAtOnce(one: Case, difference: Difference): CaseResult {
  const exchange: Exchange = {
    name: undefined,
    question: one.question,
    reply: undefined,
    because: undefined,
    differences: [difference],
    explanation: [],
    startedAt: Date.now(),
    milliseconds: 0,
  };
  return {
    case: one,
    outcome: "failed",
    exchanges: [exchange],
    because: undefined,
    milliseconds: 0,
    attempts: 0,
  };
}

/** What is said of checks that are left out here. */
function describeHidden(hidden: readonly Check[]): string {
  const isInside = hidden.some(({ insideOnly }) => insideOnly);
  return isInside
    ? "answeredBy was not checked: it is only known in process"
    : `${hidden.map(({ about }) => about).join(" and ")} was not checked: it is only known over the network`;
}

async function runCase(one: Case, asker: Asker, options: RunOptions): Promise<CaseResult> {
  const here = asker.explain === undefined ? "over the network" : "in process";
  if (one.skip !== undefined) return skip(one, one.skip);
  if (one.unmet !== undefined) return failAtOnce(one, one.unmet);
  if (one.only !== undefined && one.only !== here) return skip(one, `asked ${one.only} only`);
  const hidden = one.checks.filter(({ insideOnly, wireOnly }) =>
    asker.explain === undefined ? insideOnly : wireOnly,
  );
  if (hidden.length > 0 && hidden.length === one.checks.length && one.followUps.length === 0)
    return skip(one, describeHidden(hidden));
  const retries = one.retries ?? options.retries ?? 0;
  const started = performance.now();
  for (let attempt = 1; ; attempt++) {
    const { exchanges, bad } = await askOften(one, asker, options);
    const unanswered = exchanges.some(({ because }) => because !== undefined);
    const failed = exchanges.some(({ differences }) => differences.length > 0);
    if ((unanswered || failed) && one.advice === undefined && attempt <= retries) {
      await wait(RETRY_AFTER_MS);
      continue;
    }
    const isAdvice = one.advice !== undefined && options.strict !== true;
    const outcome = unanswered ? "unanswered" : !failed ? "passed" : isAdvice ? "advised" : "failed";
    const milliseconds = performance.now() - started;
    const because = hidden.length > 0 ? describeHidden(hidden) : undefined;
    return {
      case: one,
      outcome,
      exchanges,
      because,
      milliseconds,
      attempts: attempt,
      ...(one.times !== undefined && { badTimes: bad }),
    };
  }
}

/** Asks a case as often as it says. Gives what came of the first time that was wrong, or of the last one. */
async function askOften(
  one: Case,
  asker: Asker,
  options: RunOptions,
): Promise<{ exchanges: Exchange[]; bad: number }> {
  if (one.times === undefined) return { exchanges: await askCase(one, asker, options), bad: 0 };
  const isWrong = (exchanges: readonly Exchange[]): boolean =>
    exchanges.some(({ because, differences }) => because !== undefined || differences.length > 0);
  let [last, wrong, bad]: [Exchange[], Exchange[] | undefined, number] = [[], undefined, 0];
  const times = Array.from({ length: one.times }, (_, index) => index);
  await doAtATime(times, one.atOnce ?? 1, async () => {
    last = await askCase(one, asker, options);
    if (!isWrong(last)) return;
    wrong ??= last;
    bad++;
  });
  return { exchanges: wrong ?? last, bad };
}

async function askCase(one: Case, asker: Asker, options: RunOptions): Promise<Exchange[]> {
  const send = makeAsk(one, asker, options);
  const first = await send(undefined, one.question, one.checks);
  const exchanges = [first.exchange];
  // What else is asked builds on an answer that is as expected.
  if (first.reply === undefined || first.exchange.differences.length > 0) return exchanges;
  const seen = { question: one.question, reply: first.reply, address: asker.address };
  await askOn(exchanges, seen, one.followUps, send);
  return exchanges;
}

/** Asks on from an answer, whose exchange is the last one, and adds what comes of it. */
async function askOn(
  exchanges: Exchange[],
  seen: Seen,
  followUps: readonly FollowUp[],
  send: Send,
): Promise<void> {
  const from = exchanges.length - 1;
  for (const followUp of followUps) {
    const plan = followUp.plan(seen);
    if ("problem" in plan) {
      const difference = {
        about: followUp.name,
        expected: plan.expected ?? "an answer to ask further about",
        got: plan.problem,
        comparable: false,
      };
      const first = exchanges[from]!;
      exchanges[from] = { ...first, differences: [...first.differences, difference] };
      continue;
    }
    for (const { name, question, checks, followUps: further = [] } of plan) {
      const next = await send(name, question, checks);
      exchanges.push(next.exchange);
      if (next.reply === undefined || next.exchange.differences.length > 0) continue;
      await askOn(exchanges, { question, reply: next.reply, address: seen.address }, further, send);
    }
  }
}

type Send = (
  name: string | undefined,
  question: Question,
  checks: readonly Check[],
) => Promise<{ exchange: Exchange; reply: Reply | undefined }>;

function makeAsk(one: Case, asker: Asker, options: RunOptions): Send {
  return async (name, question, checks) => {
    const startedAt = Date.now();
    const started = performance.now();
    const base = { name, question, startedAt };
    try {
      const timeoutMs = one.timeoutMs ?? options.timeoutMs;
      const reply = await asker.ask(question, { timeoutMs, width: options.concurrency });
      const milliseconds = performance.now() - started;
      const differences = findDifferences(checks, { question, reply, address: asker.address });
      const about = differences.map((difference) => difference.about);
      const explanation =
        about.length === 0 || asker.explain === undefined
          ? []
          : toShortBlocks(await asker.explain(question), about);
      const summary = summarise(reply, options.keepTexts ?? false);
      return {
        reply,
        exchange: { ...base, milliseconds, reply: summary, because: undefined, differences, explanation },
      };
    } catch (error) {
      const milliseconds = performance.now() - started;
      const because = (error as Error).message;
      return {
        reply: undefined,
        exchange: { ...base, milliseconds, reply: undefined, because, differences: [], explanation: [] },
      };
    }
  };
}

/** Longest text that a recording keeps, in UTF-16 code units. */
const TEXT_LIMIT = 64 * 1024;

function summarise(reply: Reply, keepText: boolean): ReplySummary {
  const { status, headers, body, inside } = reply;
  const text = keepText && isTextual(readMediaType(headers)) ? readText(reply) : undefined;
  return {
    status,
    headers,
    bodyBytes: body.length,
    body: describeBody(reply),
    text: text?.ok ? text.text?.slice(0, TEXT_LIMIT) : undefined,
    answeredBy: inside && (inside.file ?? (inside.passedOn ? THE_APPLICATION : `${NO_FILE}: ${inside.why}`)),
  };
}
