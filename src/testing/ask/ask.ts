import type { Reason } from "../../core/explain/reason.js";
import type { Explanation } from "../../site/site.js";

/** Header fields to send, names as written; a list sends a line for each value. */
export type FieldsToSend = Readonly<Record<string, string | readonly string[]>>;

/** A request of a case. */
export interface Question {
  readonly method: string;
  /**
   * The request target after the base address, sent as written: it starts with a slash, or is `*`, or a whole address (the
   * absolute form, RFC 9112 §3.2.2).
   */
  readonly path: string;
  readonly headers: FieldsToSend;
  /** The content to send, as UTF-8. */
  readonly body?: string | undefined;
  /** No more than this many bytes of the body are read; the whole when not given. */
  readonly readAtMost?: number | undefined;
  /** Asked over its own connection, whose every byte is looked at: known over the network only. */
  readonly ownSocket?: boolean | undefined;
}

/** A field line as it came. */
export type FieldLine = readonly [name: string, value: string];

/** The answer, as plain data. */
export interface Reply {
  readonly status: number;
  /** Names in lower case; several lines of one field are joined with a comma (RFC 9110 §5.3). */
  readonly headers: Readonly<Record<string, string>>;
  /** The bytes as they came: a content coding is not undone. */
  readonly body: Uint8Array;
  /** Bytes of the body left unread, if the request limits how much is read; undefined when the body is complete. */
  readonly isCut?: boolean;
  /** The field lines one by one; undefined where they are not known. */
  readonly lines?: readonly FieldLine[];
  /** What only the network tells; undefined in process. */
  readonly wire?: Wire;
  /** What is known about it in this process; undefined for an answer from the network. */
  readonly inside: Inside | undefined;
}

/** How an answer came over the network. */
export interface Wire {
  /** Such as `1.1`. */
  readonly httpVersion: string;
  /** From the request's last byte to the answer's first one. */
  readonly firstByteMilliseconds: number;
  /** What the bytes themselves show; known of a question with its own socket. */
  readonly message?: Message;
}

/** A message as its bytes are, RFC 9112. */
export interface Message {
  /** The status line and the field lines, as they came, one byte a code unit. */
  readonly head: string;
  /** Bytes behind the end that the message gives itself. */
  readonly excess: number;
  /** Bytes that it says there are, and that did not come. */
  readonly lacking: number;
  /** What is wrong with its chunks (RFC 9112 §7.1). */
  readonly chunks: string | undefined;
}

/** What only the process that answers can tell. */
export interface Inside {
  /** The file that answers, as an address from the site's root, not escaped; undefined when none does. */
  readonly file: string | undefined;
  /** The site left the request to the application behind it. */
  readonly passedOn: boolean;
  readonly reason: Reason;
  /** The reason in one sentence. */
  readonly why: string;
}

/**
 * A path as it is sent: letters beyond ASCII are escaped as UTF-8, as browsers do it, because a request has no other place for
 * them. Everything else stays as written.
 */
export function escapePath(path: string): string {
  return path.toWellFormed().replace(/[^\0-\x7f]+/g, encodeURIComponent);
}

/** How one question is asked. */
export interface AskOptions {
  /** How long to wait for the whole answer, in milliseconds. */
  readonly timeoutMs?: number | undefined;
  /** How many questions are in progress at a time, by which bodies are limited; the asker's own when not given. */
  readonly width?: number | undefined;
}

/** Puts questions to a site, in process or over the network. */
export interface Asker {
  /** What is asked, for reports. */
  readonly about: string;
  /** The base address, without a slash at its end: where paths begin. */
  readonly address: string;
  /** How many questions may well be in progress at a time. */
  readonly concurrency: number;
  /** Rejects with an Error in plain words when there is no answer. */
  ask(question: Question, options?: AskOptions): Promise<Reply>;
  /** How the answer to a question comes about; undefined where that cannot be known. */
  explain?(question: Question): Promise<Explanation>;
  close(): Promise<void>;
}

/** The base address of a site that is asked without a network; `.invalid` names nothing (RFC 2606 §2). */
export const IN_PROCESS_ADDRESS = "http://in-process.invalid";

/** The most that bodies in progress take together, and one of them alone, in bytes. */
const TOGETHER = 512 * 1024 * 1024;
const ALONE = 256 * 1024 * 1024;

/** How long a body may be that is read to its end while `width` questions are in progress at a time, in bytes. */
export function bodyLimit(width: number): number {
  return Math.min(ALONE, Math.floor(TOGETHER / width));
}

/** What is said of a body that is longer. */
export function describeTooLong(width: number): string {
  const limit = `${Math.floor(bodyLimit(width) / 1024 / 1024)} MiB`;
  const others = width <= TOGETHER / ALONE ? "" : `, or send fewer requests at a time (--concurrency 1)`;
  return `the body is longer than the limit of ${limit}; ask for it with HEAD, or for a range of it${others}`;
}

/** The fields of both; where a name is in both, whatever its case, the later one stands. */
export function mergeFields<Value extends string | readonly string[]>(
  first: Readonly<Record<string, Value>>,
  second: Readonly<Record<string, Value>>,
): Record<string, Value> {
  const said = new Set(Object.keys(second).map((name) => name.toLowerCase()));
  const rest = Object.entries(first).filter(([name]) => !said.has(name.toLowerCase()));
  return { ...Object.fromEntries(rest), ...second };
}

/** The field lines of a request, one by one. */
export function listSent(headers: FieldsToSend): FieldLine[] {
  return Object.entries(headers).flatMap(([name, value]) =>
    typeof value === "string" ? [[name, value] as const] : value.map((one): FieldLine => [name, one]),
  );
}

/** What a request sends, in a few words. */
export function describeSent(body: string): string {
  const shown = JSON.stringify(body.length > 100 ? `${body.slice(0, 99)}…` : body);
  return `with ${shown} (${Buffer.byteLength(body)} bytes)`;
}

/** The value of a field that is sent, by its name in any case. */
export function findSent(headers: FieldsToSend, name: string): string | undefined {
  const value = Object.entries(headers).find(([key]) => key.toLowerCase() === name.toLowerCase())?.[1];
  return value === undefined ? undefined : [value].flat().join(", ");
}

/** Header fields of a browser that follows a link or opens an address (Fetch Metadata). */
export const NAVIGATION: Readonly<Record<string, string>> = {
  Accept: "text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8",
  "Sec-Fetch-Mode": "navigate",
  "Sec-Fetch-Dest": "document",
};
