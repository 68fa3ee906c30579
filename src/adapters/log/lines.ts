import { fieldValue } from "../../core/request/request.js";
import { printable, printableJson } from "../../core/text/printable.js";
import { nameAnswer } from "../../site/file-names.js";
import type { SiteMount } from "../../site/site.js";
import type { ResponseRecord } from "../response-record.js";
import { describeOutcome, tellMediaType, tellTarget } from "./outcome.js";

/**
 * Forms of a log of which each line is an answer: the common and the combined format that log analysers read, with the file or the
 * reason behind them; the extended format of the W3C; JSON.
 */
export const LINE_FORMS = ["common", "combined", "extended", "json"] as const;
/** The forms of a log line: `common`, `combined`, `extended` or `json`. */
export type LineForm = (typeof LINE_FORMS)[number];

/** What a log line needs besides the record. */
export interface LineOptions {
  /** The site's mounts, so that files are named as the configuration names them. */
  readonly mounts?: readonly SiteMount[] | undefined;
  /** Leaves out what queries say: they may hold what nobody should keep. */
  readonly redactQuery?: boolean | undefined;
  /** The time of the answer; now when not given. */
  readonly now?: Date | undefined;
}

/** An answer as a line of a log, without the line break. */
export function formatLogLine(form: LineForm, record: ResponseRecord, options: LineOptions = {}): string {
  const { mounts = [], redactQuery = false, now = new Date() } = options;
  const line = FORMS[form];
  if (line === undefined)
    throw new TypeError(
      `formatLogLine: found ${JSON.stringify(form)}; write one of ${LINE_FORMS.join(", ")}.`,
    );
  const outcome = form === "json" ? "" : describeOutcome(record, mounts);
  return line({ record, target: tellTarget(record, redactQuery), outcome, mounts, now });
}

/** What a log begins with, each time it is opened: the extended format says what its fields are. Empty for the others. */
export function formatLogHead(form: LineForm, now: Date = new Date()): string {
  if (form !== "extended") return "";
  return `#Version: 1.0\n#Software: epistyle\n#Date: ${now.toISOString().slice(0, 19).replace("T", " ")}\n#Fields: ${EXTENDED.map(([name]) => name).join(" ")}\n`;
}

interface Told {
  readonly record: ResponseRecord;
  readonly target: string;
  readonly outcome: string;
  readonly mounts: readonly SiteMount[];
  readonly now: Date;
}

const FORMS: Readonly<Record<LineForm, (told: Told) => string>> = {
  common: (told) => `${startCommon(told)} ${quote(told.outcome)}${endCommon(told)}`,
  combined(told) {
    const { headers } = told.record.request;
    const [referer, agent] = [fieldValue(headers, "referer"), fieldValue(headers, "user-agent")];
    return `${startCommon(told)} ${quote(referer)} ${quote(agent)} ${quote(told.outcome)}${endCommon(told)}`;
  },
  extended: (told) => EXTENDED.map(([, tell]) => tell(told)).join(" "),
  json({ record, target, mounts, now }) {
    const { request, answer, delivery, milliseconds, client, httpVersion, why, id } = record;
    return printableJson({
      level: "info",
      time: now.toISOString(),
      client: client.address,
      scheme: client.scheme,
      host: client.host,
      method: request.method,
      target,
      httpVersion,
      status: delivery.status,
      mediaType: tellMediaType(record),
      bytes: delivery.bytes,
      milliseconds: Math.round(milliseconds * 1000) / 1000,
      file: nameAnswer(mounts, answer),
      why,
      id,
      complete: delivery.complete,
      cutOff: delivery.cutOff,
    });
  },
};

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

function startCommon({ record: { request, delivery, client, httpVersion }, target, now }: Told): string {
  const two = (n: number): string => String(n).padStart(2, "0");
  const date = `${two(now.getUTCDate())}/${MONTHS[now.getUTCMonth()]}/${now.getUTCFullYear()}`;
  const time = `${two(now.getUTCHours())}:${two(now.getUTCMinutes())}:${two(now.getUTCSeconds())}`;
  const line = `${request.method} ${target} HTTP/${httpVersion}`;
  return `${word(client.address)} - - [${date}:${time} +0000] ${quote(line)} ${delivery.status} ${delivery.bytes || "-"}`;
}

// Where requests have ids, the line ends with it.
function endCommon({ record: { id } }: Told): string {
  return id === undefined ? "" : ` ${quote(id)}`;
}

/** The fields of the extended format (W3C Working Draft WD-logfile-960323), with what each holds. */
const EXTENDED: readonly (readonly [name: string, tell: (told: Told) => string])[] = [
  ["date", ({ now }) => now.toISOString().slice(0, 10)],
  ["time", ({ now }) => now.toISOString().slice(11, 19)],
  ["c-ip", ({ record }) => word(record.client.address)],
  ["cs-method", ({ record }) => word(record.request.method)],
  ["cs-uri-stem", ({ target }) => word(target.replace(/\?.*$/s, ""))],
  [
    "cs-uri-query",
    ({ target }) => word(target.includes("?") ? target.slice(target.indexOf("?") + 1) : undefined),
  ],
  ["cs-version", ({ record }) => `HTTP/${record.httpVersion}`],
  ["cs-host", ({ record }) => word(record.client.host)],
  ["sc-status", ({ record }) => String(record.delivery.status)],
  ["sc-bytes", ({ record }) => String(record.delivery.bytes)],
  ["time-taken", ({ record }) => (record.milliseconds / 1000).toFixed(3)],
  ["cs(User-Agent)", ({ record }) => double(fieldValue(record.request.headers, "user-agent"))],
  ["cs(Referer)", ({ record }) => double(fieldValue(record.request.headers, "referer"))],
  ["x-outcome", ({ outcome }) => double(outcome)],
  ["x-request-id", ({ record }) => word(record.id)],
];

/** A value between blanks: one without them. */
function word(text: string | undefined): string {
  return text === undefined || text === "" ? "-" : printable(text).replace(/\s/g, "+");
}

/** A text in quotes, those in it escaped. */
function quote(text: string | undefined): string {
  return `"${text === undefined ? "-" : printable(text).replace(/["\\]/g, "\\$&")}"`;
}

/** A text in quotes, those in it twice, as the extended format has it. */
function double(text: string | undefined): string {
  return text === undefined ? "-" : `"${printable(text).replaceAll('"', '""')}"`;
}
