import * as zlib from "node:zlib";
import { charsetOf, mediaTypeOf } from "../../core/fields/content-type.js";
import { splitMembers } from "../../core/fields/grammar.js";
import { isXml } from "../../core/rules/protect.js";
import { own } from "../../core/text/own.js";
import { formatCount } from "../../core/text/size.js";
import type { Page } from "../../reading/pages/element.js";
import { readPage } from "../../reading/pages/page.js";
import { atOnce } from "../../reading/slices.js";
import { decodeText as decode } from "../../reading/text.js";
import type { Reply } from "../ask/ask.js";

type Decoder = (bytes: Uint8Array) => Uint8Array;
type Undo = (bytes: Uint8Array, options: typeof LIMIT) => Uint8Array;

/** The most that undoing the codings of an answer makes of it, in bytes: a few may stand for very many. */
const CONTENT_LIMIT = 64 * 1024 * 1024;

const LIMIT = { maxOutputLength: CONTENT_LIMIT };
// RFC 9110 §8.4.1, RFC 7932, RFC 8878. Zstandard came to Node in 22.15.
const DECODERS: Readonly<Record<string, Decoder | undefined>> = {
  gzip: (bytes) => zlib.gunzipSync(bytes, LIMIT),
  "x-gzip": (bytes) => zlib.gunzipSync(bytes, LIMIT),
  deflate: (bytes) => zlib.inflateSync(bytes, LIMIT),
  br: (bytes) => zlib.brotliDecompressSync(bytes, LIMIT),
  zstd:
    "zstdDecompressSync" in zlib
      ? (bytes) => (zlib as unknown as { zstdDecompressSync: Undo }).zstdDecompressSync(bytes, LIMIT)
      : undefined,
  identity: (bytes) => bytes,
};

export type Content = { ok: true; bytes: Uint8Array } | { ok: false; problem: string };

const known = new WeakMap<Reply, Content>();

/** The content of an answer: its body with the content codings undone, the last one first (RFC 9110 §8.4). */
export function readContent(reply: Reply): Content {
  let content = known.get(reply);
  if (content === undefined) {
    content = undoCodings(reply);
    known.set(reply, content);
  }
  return content;
}

function undoCodings({ headers, body }: Reply): Content {
  const codings = listCodings(headers);
  let bytes = body;
  if (bytes.length === 0) return { ok: true, bytes };
  for (const coding of codings.reverse()) {
    const decoder = own(DECODERS, coding);
    if (decoder === undefined)
      return { ok: false, problem: `a body in the coding ${coding}, which cannot be decoded here` };
    try {
      bytes = decoder(bytes);
    } catch (error) {
      const isTooLong = (error as NodeJS.ErrnoException).code === "ERR_BUFFER_TOO_LARGE";
      return { ok: false, problem: isTooLong ? describeBomb(bytes.length, coding) : describeOther(coding) };
    }
  }
  return { ok: true, bytes: new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength) };
}

function describeBomb(length: number, coding: string): string {
  return `${formatCount(length)} bytes in the coding ${coding} that decode to more than ${CONTENT_LIMIT / 1024 / 1024} MiB, the limit for an answer`;
}

function describeOther(coding: string): string {
  return `a body that is not in the coding ${coding}, which Content-Encoding names`;
}

/** The content codings of an answer, in the order they were applied. */
export function listCodings(headers: Readonly<Record<string, string>>): string[] {
  return splitMembers((headers["content-encoding"] ?? "").toLowerCase(), ",").filter(Boolean);
}

/** The media type of an answer, without parameters, in lower case. */
export function readMediaType(headers: Readonly<Record<string, string>>): string | undefined {
  const field = headers["content-type"];
  return field === undefined ? undefined : mediaTypeOf(field);
}

export function readCharset(headers: Readonly<Record<string, string>>): string | undefined {
  return charsetOf(headers["content-type"] ?? "");
}

/** The content as text, in the charset that its type names, or UTF-8. */
export function readText(reply: Reply): Content & { text?: string } {
  const content = readContent(reply);
  return content.ok ? { ...content, text: decodeText(content.bytes, reply.headers) } : content;
}

export function decodeText(bytes: Uint8Array, headers: Readonly<Record<string, string>>): string {
  return decode(bytes, readCharset(headers)).text;
}

const pages = new WeakMap<Reply, Page>();
const NO_PAGE: Page = { elements: [], unread: undefined, isData: false };

/** The content as a browser reads a page, once for each answer; without elements if the content cannot be decoded. */
export function pageOf(reply: Reply): Page {
  let page = pages.get(reply);
  if (page === undefined) {
    const { text } = readText(reply);
    page = text === undefined ? NO_PAGE : atOnce(readPage(text, isXml(reply.headers["content-type"] ?? "")));
    pages.set(reply, page);
  }
  return page;
}
