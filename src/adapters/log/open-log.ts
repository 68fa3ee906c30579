import { formatCount, formatSize } from "../../core/text/size.js";
import type { SiteMount } from "../../site/site.js";
import type { ResponseRecord } from "../response-record.js";
import { formatLogHead, formatLogLine, LINE_FORMS, type LineForm } from "./lines.js";
import type { LogOutput } from "./log-output.js";
import { describeOutcome, tellMediaType, tellTarget } from "./outcome.js";
import { cutToFit, printable, type Terminal } from "./terminal.js";

export const LOG_FORMS = ["pretty", ...LINE_FORMS, "off"] as const;
export type LogForm = (typeof LOG_FORMS)[number];

/** What a server logs, and how. */
export interface LogOptions {
  readonly form: LogForm;
  /** Where lines for programs go; standard output when not given. */
  readonly file: string | undefined;
  readonly redactQuery: boolean;
}

/** A log that is open. */
export interface Log {
  readonly write: (record: ResponseRecord) => void;
  /** Opens its file again. */
  reopen(): void;
  close(): Promise<void>;
}

/** Gives the mounts that are served just now: files are named after their folders. */
type Mounts = () => readonly SiteMount[];

/** How often it is told how much of a log was lost, in milliseconds. */
const TELL_LOST_MS = 60_000;

/** Opens a log. `people` is told when lines were lost. Undefined for no log at all. Rejects with a StartError. */
export async function openLog(
  { form, file, redactQuery }: LogOptions,
  { terminal, people }: { readonly terminal: Terminal; readonly people: Pick<Terminal, "print"> },
  mounts: Mounts,
): Promise<Log | undefined> {
  if (form === "off") return undefined;
  if (form === "pretty" && file === undefined) {
    const write = (record: ResponseRecord): void =>
      terminal.print(formatPretty(record, new Date(), terminal, { mounts: mounts(), redactQuery }));
    return { write, reopen() {}, close: async () => {} };
  }
  // Loaded only when it is used: every other start is quicker without it.
  const { openLogOutput } = await import("./log-output.js");
  const lines: LineForm = form === "pretty" ? "combined" : form;
  const output = await openLogOutput(file, () => formatLogHead(lines));
  const telling = setInterval(() => tellLost(output, people), TELL_LOST_MS);
  telling.unref();
  return {
    write: (record) => output.write(formatLogLine(lines, record, { mounts: mounts(), redactQuery })),
    reopen: () => output.reopen(),
    async close() {
      clearInterval(telling);
      await output.close();
      tellLost(output, people);
    },
  };
}

function tellLost(output: LogOutput, people: Pick<Terminal, "print">): void {
  const lost = output.takeLost();
  if (lost > 0)
    people.print(
      `${formatCount(lost)} ${lost === 1 ? "line" : "lines"} of the log could not be written, and ${lost === 1 ? "is" : "are"} lost.`,
    );
}

/** Below this width a line has no room for the target and the file: they go on their own line. */
const ONE_LINE_FROM = 120;
const TARGET_WIDTH = 30;

function formatPretty(
  record: ResponseRecord,
  now: Date,
  { columns, colors }: Terminal,
  { mounts, redactQuery }: { readonly mounts: readonly SiteMount[]; readonly redactQuery: boolean },
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

  const target = printable(tellTarget(record, redactQuery));
  const outcome = describeOutcome(record, mounts);
  if (columns === undefined) return `${head}  ${target.padEnd(TARGET_WIDTH)}  ${outcome}`;
  const oneLine = columns >= ONE_LINE_FROM;
  const room = columns - (oneLine ? headWidth + 2 : 10);
  const targetRoom = Math.max(Math.min(TARGET_WIDTH, room >> 1), room - outcome.length - 2);
  const shown = cutToFit(target, targetRoom).padEnd(oneLine ? Math.min(TARGET_WIDTH, targetRoom) : 0);
  const rest = `${shown}  ${cutToFit(outcome, room - shown.length - 2)}`;
  return oneLine ? `${head}  ${rest}` : `${head}\n${" ".repeat(10)}${rest}`;
}
