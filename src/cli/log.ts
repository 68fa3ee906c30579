import { describeCutOff } from "../adapters/delivery.js";
import type { ResponseRecord } from "../adapters/node.js";
import type { Answer } from "../core/answer/plan.js";
import { mediaTypeOf } from "../core/fields/content-type.js";
import { formatSize } from "../core/text/size.js";
import { nameFile } from "../site/file-names.js";
import type { SiteMount } from "../site/site.js";
import { cutToFit, printable, type Terminal } from "./terminal.js";

export const LOG_FORMS = ["pretty", "json", "combined", "off"] as const;
export type LogForm = (typeof LOG_FORMS)[number];
export type Logger = (record: ResponseRecord) => void;

/** Gives the mounts that are served just now: files are named after their folders. */
type Mounts = () => readonly SiteMount[];

/** Makes the function that logs a line for each response. */
export async function makeLogger(
  form: LogForm,
  terminal: Terminal,
  mounts: Mounts,
): Promise<Logger | undefined> {
  switch (form) {
    case "off":
      return undefined;
    case "json":
      return makeJsonLogger(mounts);
    case "combined":
      return (record) => terminal.print(formatCombined(record, new Date()));
    case "pretty":
      return (record) => terminal.print(formatPretty(record, new Date(), terminal, mounts()));
  }
}

/** Below this width a line has no room for the target and the file: they go on a line of their own. */
const ONE_LINE_FROM = 120;
const TARGET_WIDTH = 30;

function formatPretty(
  record: ResponseRecord,
  now: Date,
  { columns, colors }: Terminal,
  mounts: readonly SiteMount[],
): string {
  const { request, delivery, milliseconds } = record;
  const { status } = delivery;
  const paint = status >= 500 ? colors.red : status >= 400 ? colors.yellow : colors.green;
  const facts = [
    tellMediaType(record).padEnd(17),
    formatSize(delivery.bytes).padStart(8),
    `${milliseconds.toFixed(1)} ms`.padStart(9),
  ].join("  ");
  const start = `${now.toTimeString().slice(0, 8)}  ${request.method.padEnd(7)}  `;
  const head = `${start}${paint(String(status))}  ${facts}`;
  const headWidth = start.length + 3 + 2 + facts.length;

  const target = printable(request.target);
  const outcome = describeOutcome(record, mounts);
  if (columns === undefined) return `${head}  ${target.padEnd(TARGET_WIDTH)}  ${outcome}`;
  const oneLine = columns >= ONE_LINE_FROM;
  const room = columns - (oneLine ? headWidth + 2 : 10);
  const targetRoom = Math.max(Math.min(TARGET_WIDTH, room >> 1), room - outcome.length - 2);
  const shown = cutToFit(target, targetRoom).padEnd(oneLine ? Math.min(TARGET_WIDTH, targetRoom) : 0);
  const rest = `${shown}  ${cutToFit(outcome, room - shown.length - 2)}`;
  return oneLine ? `${head}  ${rest}` : `${head}\n${" ".repeat(10)}${rest}`;
}

/** The file that answered, or why none did. */
function describeOutcome({ answer, delivery, why }: ResponseRecord, mounts: readonly SiteMount[]): string {
  const told = tellAnswer(answer, why, mounts);
  const { cutOff } = delivery;
  return printable(cutOff === undefined ? told : `${told} (${describeCutOff(cutOff)})`);
}

function tellAnswer(answer: Answer, why: string, mounts: readonly SiteMount[]): string {
  if (answer.kind === "pass") return `handed on: ${why}`;
  const { fields, reason } = answer;
  const file = answer.file === undefined ? undefined : nameFile(mounts, answer.file);
  if (reason.code === "listing") return why;
  if (file !== undefined) {
    if (reason.code === "not-modified") return `${file} (the client's copy is current)`;
    return reason.code === "app-shell" || reason.code === "earlier-release" ? `${file} (${why})` : file;
  }
  const location = fields.get("location");
  if (location === undefined) return `none: ${why}`;
  const because = reason.code === "missing-slash" ? "a slash was missing" : why;
  return `redirect to ${location} (${because})`;
}

function tellMediaType({ answer }: ResponseRecord): string {
  const field = answer.kind === "pass" ? undefined : answer.fields.get("content-type");
  return field === undefined ? "-" : mediaTypeOf(field);
}

async function makeJsonLogger(mounts: Mounts): Promise<Logger> {
  // Loaded only when it is used: every other start is quicker without it.
  const { pino } = await import("pino");
  const log = pino(
    {
      base: undefined,
      timestamp: pino.stdTimeFunctions.isoTime,
      // A number would want a table to be read with.
      formatters: { level: (level) => ({ level }) },
    },
    pino.destination({ sync: false, minLength: 0 }),
  );
  return (record) => {
    const { request, answer, delivery, milliseconds, why } = record;
    log.info({
      method: request.method,
      target: request.target,
      status: delivery.status,
      mediaType: tellMediaType(record),
      bytes: delivery.bytes,
      milliseconds: Math.round(milliseconds * 1000) / 1000,
      file:
        answer.kind === "response" && answer.file !== undefined ? nameFile(mounts(), answer.file) : undefined,
      why,
      complete: delivery.complete,
      cutOff: delivery.cutOff,
    });
  };
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

// The combined log format that many servers and all log analysers share.
function formatCombined({ request, delivery, client }: ResponseRecord, now: Date): string {
  const two = (n: number): string => String(n).padStart(2, "0");
  const date = `${two(now.getUTCDate())}/${MONTHS[now.getUTCMonth()]}/${now.getUTCFullYear()}`;
  const time = `${two(now.getUTCHours())}:${two(now.getUTCMinutes())}:${two(now.getUTCSeconds())}`;
  const quote = (value: unknown): string =>
    `"${value === undefined ? "-" : printable(String(value)).replace(/["\\]/g, "\\$&")}"`;
  const line = `${request.method} ${request.target} HTTP/1.1`;
  const { referer, "user-agent": agent } = request.headers;
  return `${client.address ?? "-"} - - [${date}:${time} +0000] ${quote(line)} ${delivery.status} ${delivery.bytes || "-"} ${quote(referer)} ${quote(agent)}`;
}
