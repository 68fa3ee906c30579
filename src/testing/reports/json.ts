import * as z from "zod";
import { printableJson } from "../../core/text/printable.js";
import type { CaseResult, Exchange } from "../run.js";
import { countResults, type Run } from "./run.js";

const fields = z.record(z.string(), z.string());
const count = z.int().min(0);

const exchange = z.strictObject({
  name: z.string().optional().describe("What a follow-up is; none for the case's own request."),
  request: z.strictObject({
    method: z.string(),
    path: z.string(),
    headers: z
      .record(z.string(), z.union([z.string(), z.array(z.string())]))
      .describe("A list if the field was sent in several lines."),
    body: z.string().optional(),
  }),
  response: z
    .strictObject({ status: z.int(), headers: fields, bodyBytes: count, answeredBy: z.string().optional() })
    .optional(),
  because: z.string().optional().describe("Why there was no answer."),
  differences: z.array(z.strictObject({ about: z.string(), expected: z.string(), got: z.string() })),
  explanation: z.array(z.strictObject({ title: z.string(), rows: z.array(z.array(z.string())) })).optional(),
  startedAt: z.string().describe("Time in ISO 8601."),
  milliseconds: z.number(),
});

const result = z.strictObject({
  name: z.string(),
  group: z.string().optional(),
  outcome: z.enum(["passed", "failed", "unanswered", "skipped", "advised", "known"]),
  because: z.string().optional().describe("Why it was skipped, or may fail for now."),
  reason: z.string().optional(),
  advice: z.string().optional().describe("Advice, if an optional expectation fails."),
  position: z.string().optional().describe("file:line:column"),
  milliseconds: z.number(),
  attempts: count,
  badTimes: count.optional().describe("How many answers were wrong, if it is asked several times."),
  exchanges: z.array(exchange),
});

const counts = z.strictObject({
  total: count,
  passed: count,
  failed: count,
  unanswered: count.describe("Failed cases without an answer."),
  skipped: count,
  advised: count.describe("Optional expectations that fail."),
  known: count.describe("Known failures that are accepted."),
});

/** The JSON report of `check`, version 1. */
export const reportSchema = z.strictObject({
  version: z.literal(1),
  ...counts.shape,
  runs: z.array(
    z.strictObject({
      title: z.string(),
      about: z.string(),
      address: z.string(),
      startedAt: z.string(),
      milliseconds: z.number(),
      ...counts.shape,
      cases: z.array(result),
    }),
  ),
});

/** The results as JSON. */
export function reportJson(runs: readonly Run[]): string {
  const report: z.input<typeof reportSchema> = {
    version: 1,
    ...countResults(runs.flatMap(({ results }) => results)),
    runs: runs.map(({ title, about, address, startedAt, milliseconds, results }) => ({
      title,
      about,
      address,
      startedAt: new Date(startedAt).toISOString(),
      milliseconds: round(milliseconds),
      ...countResults(results),
      cases: results.map(toResult),
    })),
  };
  return `${printableJson(report, 2)}\n`;
}

function toResult(one: CaseResult): z.input<typeof result> {
  const { name, group, reason, position, advice } = one.case;
  return {
    name,
    group,
    outcome: one.outcome,
    because: one.because,
    reason,
    ...(one.outcome === "advised" && { advice }),
    position,
    milliseconds: round(one.milliseconds),
    attempts: one.attempts,
    ...(one.badTimes !== undefined && { badTimes: one.badTimes }),
    exchanges: one.exchanges.map(toExchange),
  };
}

function toExchange(one: Exchange): z.input<typeof exchange> {
  const { name, question, reply, because, differences, explanation } = one;
  return {
    name,
    request: {
      method: question.method,
      path: question.path,
      headers: Object.fromEntries(
        Object.entries(question.headers).map(([field, value]) => [
          field,
          typeof value === "string" ? value : [...value],
        ]),
      ),
      ...(question.body !== undefined && { body: question.body }),
    },
    response: reply && {
      status: reply.status,
      headers: reply.headers,
      bodyBytes: reply.bodyBytes,
      answeredBy: reply.answeredBy,
    },
    because,
    differences: differences.map(({ about, expected, got }) => ({ about, expected, got })),
    explanation:
      explanation.length === 0
        ? undefined
        : explanation.map(({ title, rows }) => ({ title, rows: rows.map((row) => [...row]) })),
    startedAt: new Date(one.startedAt).toISOString(),
    milliseconds: round(one.milliseconds),
  };
}

function round(milliseconds: number): number {
  return Math.round(milliseconds * 100) / 100;
}
