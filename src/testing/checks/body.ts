import { formatCount } from "../../core/text/size.js";
import { isTextual } from "../../reading/contents/kinds.js";
import type { Reply } from "../ask/ask.js";
import { decodeText, readContent, readMediaType } from "./content.js";

export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && Buffer.compare(a, b) === 0;
}

/** Where two runs of bytes part, in words: the byte, and for text the line. */
export function describeFirstDifference(wanted: Uint8Array, got: Uint8Array): string {
  let at = 0;
  while (at < got.length && at < wanted.length && got[at] === wanted[at]) at++;
  const line = Buffer.from(got.subarray(0, at)).toString("latin1").split("\n").length;
  const place = `byte ${formatCount(at)} (line ${formatCount(line)})`;
  if (at === got.length) return `which stop at ${place} of ${formatCount(wanted.length)}`;
  if (at === wanted.length) return `which continue after ${place}`;
  return `different from ${place} on`;
}

/** A body in a few words: its beginning when it is text, its size and type when not. */
export function describeBody(reply: Reply): string {
  const content = readContent(reply);
  if (!content.ok) return content.problem;
  const size = `${formatCount(content.bytes.length)} bytes`;
  if (content.bytes.length === 0) return "an empty body";
  const type = readMediaType(reply.headers);
  if (type !== undefined && !isTextual(type)) return `${size} of ${type}`;
  // Only the beginning is decoded: a case that passes is described too.
  const start = decodeText(content.bytes.subarray(0, SHOWN_BYTES), reply.headers);
  const whole = content.bytes.length <= SHOWN_BYTES;
  const text = start.replace(/\s+/g, " ").trim();
  return `${JSON.stringify(whole ? shorten(text, 80) : `${text.slice(0, 79)}…`)} (${size})`;
}

const SHOWN_BYTES = 480;

/** A text cut to a length, in UTF-16 code units. */
export function shorten(text: string, length: number): string {
  return text.length > length ? `${text.slice(0, length - 1)}…` : text;
}
