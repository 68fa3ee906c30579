import type { Reason } from "../../core/explain/reason.js";
import type { Explanation } from "../../site/site.js";

/** A request of a case. Header names as written. */
export interface Question {
  readonly method: string;
  /** The request target after the base address: it starts with a slash, or is `*`. Sent as it is written. */
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** What came back, as plain data. */
export interface Reply {
  readonly status: number;
  /** Names in lower case; several lines of one field are joined with a comma (RFC 9110 §5.3). */
  readonly headers: Readonly<Record<string, string>>;
  /** The bytes as they came: a content coding is not undone. */
  readonly body: Uint8Array;
  /** What is known of it in this process; undefined for an answer from the network. */
  readonly inside: Inside | undefined;
}

/** What only the process that answers can tell. */
export interface Inside {
  /** The file that answers, as an address from the site's root, not escaped; undefined when none does. */
  readonly file: string | undefined;
  /** The site left the request to what stands behind it. */
  readonly passedOn: boolean;
  readonly reason: Reason;
  /** The reason in one sentence. */
  readonly why: string;
}

/**
 * A path as it is sent: letters beyond ASCII are escaped as UTF-8, as browsers do it, since a request has no other place for
 * them. Everything else stays as it is written.
 */
export function escapePath(path: string): string {
  return path.toWellFormed().replace(/[^\0-\x7f]+/g, encodeURIComponent);
}

export interface AskOptions {
  /** How long to wait for the whole answer, in milliseconds. */
  readonly timeoutMs?: number | undefined;
  /** How many questions are under way at a time, by which bodies are limited; the asker's own when not given. */
  readonly width?: number | undefined;
}

/** Puts questions to a site, in process or over the network. */
export interface Asker {
  /** What is asked, for reports. */
  readonly about: string;
  /** The base address, without a slash at its end: where paths begin. */
  readonly address: string;
  /** How many questions may well be under way at a time. */
  readonly concurrency: number;
  /** Rejects with an Error in plain words when there is no answer. */
  ask(question: Question, options?: AskOptions): Promise<Reply>;
  /** How the answer to a question comes about; undefined where that cannot be known. */
  explain?(question: Question): Promise<Explanation>;
  close(): Promise<void>;
}

/** The base address of a site that is asked without a network; `.invalid` names nothing (RFC 2606 §2). */
export const IN_PROCESS_ADDRESS = "http://in-process.invalid";

/** The most that bodies under way take together, and one of them alone, in bytes. */
const TOGETHER = 512 * 1024 * 1024;
const ALONE = 256 * 1024 * 1024;

/** How long a body may be that is read to its end while `width` questions are under way at a time, in bytes. */
export function bodyLimit(width: number): number {
  return Math.min(ALONE, Math.floor(TOGETHER / width));
}

/** What is said of a body that is longer. */
export function describeTooLong(width: number): string {
  const limit = `${Math.floor(bodyLimit(width) / 1024 / 1024)} MiB`;
  const others = width <= TOGETHER / ALONE ? "" : `, or ask for less at a time (--concurrency 1)`;
  return `the body is longer than ${limit}, the most that is read; ask for it with HEAD, or for a part of it${others}`;
}

/** The fields of both; where a name is in both, whatever its case, the later one stands. */
export function mergeFields(
  first: Readonly<Record<string, string>>,
  second: Readonly<Record<string, string>>,
): Record<string, string> {
  const said = new Set(Object.keys(second).map((name) => name.toLowerCase()));
  const rest = Object.entries(first).filter(([name]) => !said.has(name.toLowerCase()));
  return { ...Object.fromEntries(rest), ...second };
}

/** Header fields of a browser that follows a link or opens an address (Fetch Metadata). */
export const NAVIGATION: Readonly<Record<string, string>> = {
  Accept: "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8",
  "Sec-Fetch-Mode": "navigate",
  "Sec-Fetch-Dest": "document",
};
