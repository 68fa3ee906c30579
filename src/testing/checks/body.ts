import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { formatCount } from "../../core/text/size.js";
import type { Reply } from "../ask/ask.js";
import type { BodyExpectation } from "../format/schema.js";
import type { Check, Got } from "./check.js";
import { decodeText, isTextual, readContent, readMediaType, readText } from "./content.js";
import { readDigest } from "./digest.js";
import { findJsonDifference } from "./json-subset.js";
import { holdAgainst, TOOK_TOO_LONG } from "./pattern.js";

/** The checks of a body. `resolveFile` finds a file that is named in it. Codings are undone before anything is looked at. */
export function checkBody(body: BodyExpectation, resolveFile: (name: string) => string): Check[] {
  const checks: Check[] = [];
  const look = (expected: string, of: (bytes: Uint8Array, reply: Reply) => Got | undefined): void => {
    checks.push({
      about: "body",
      expected,
      look({ reply }) {
        const content = readContent(reply);
        return content.ok ? of(content.bytes, reply) : { text: content.problem };
      },
    });
  };
  const lookAtText = (expected: string, holds: (text: string) => boolean): void =>
    look(expected, (_, reply) => {
      const { text = "" } = readText(reply) as { text?: string };
      return holds(text) ? undefined : { text: describeBody(reply) };
    });

  if (body.empty !== undefined) {
    look(body.empty ? "an empty body" : "a body that is not empty", (bytes, reply) =>
      (bytes.length === 0) === body.empty ? undefined : { text: describeBody(reply) },
    );
  }
  if (body.length !== undefined) {
    const { length } = body;
    look(`${formatCount(length)} bytes`, (bytes) =>
      bytes.length === length ? undefined : { text: `${formatCount(bytes.length)} bytes`, comparable: true },
    );
  }
  if (body.digest !== undefined) {
    const { algorithm, hex, written } = readDigest(body.digest)!;
    look(body.digest, (bytes) => {
      const got = createHash(algorithm).update(bytes).digest(written);
      const wanted = Buffer.from(hex, "hex").toString(written);
      const prefix = algorithm === "sha256" ? "sha-256=" : "sha-512=";
      return got === wanted ? undefined : { text: prefix + (written === "hex" ? got : `:${got}:`) };
    });
  }
  if (body.file !== undefined) {
    const { file } = body;
    look(`the bytes of ${file}`, (bytes) => compareWithFile(bytes, resolveFile(file)));
  }
  if (body.equals !== undefined) {
    const { equals } = body;
    const encoded = new TextEncoder().encode(equals);
    look(JSON.stringify(equals), (bytes, reply) => {
      if (sameBytes(bytes, encoded)) return undefined;
      const { text = "" } = readText(reply) as { text?: string };
      return text.length > 400
        ? { text: describeBody(reply) }
        : { text: JSON.stringify(text), comparable: true };
    });
  }
  for (const text of [body.contains ?? []].flat())
    lookAtText(`a text with ${JSON.stringify(text)}`, (got) => got.includes(text));
  for (const text of [body.lacks ?? []].flat()) {
    look(`a text without ${JSON.stringify(text)}`, (_, reply) => {
      const { text: got = "" } = readText(reply) as { text?: string };
      const at = got.indexOf(text);
      return at < 0 ? undefined : { text: `it in ${JSON.stringify(showAround(got, at, text.length))}` };
    });
  }
  if (body.matches !== undefined) {
    const pattern = new RegExp(body.matches, "su");
    look(`a match of /${body.matches}/`, (_, reply) => {
      const { text = "" } = readText(reply) as { text?: string };
      const outcome = holdAgainst(pattern, text);
      if (outcome === "matches") return undefined;
      return { text: outcome === "takes too long" ? TOOK_TOO_LONG : describeBody(reply) };
    });
  }
  if (body.json !== undefined) checks.push(checkJson(body.json));
  return checks;
}

function checkJson(expected: unknown): Check {
  return {
    about: "body",
    expected: `JSON with ${shorten(JSON.stringify(expected), 100)}`,
    look({ reply }) {
      const content = readText(reply);
      if (!content.ok) return { text: content.problem };
      let value: unknown;
      try {
        value = JSON.parse(content.text ?? "");
      } catch {
        return { text: `what is not JSON: ${describeBody(reply)}` };
      }
      const found = findJsonDifference(expected, value);
      if (found === undefined) return undefined;
      const show = (one: unknown): string =>
        one === undefined ? "nothing" : shorten(JSON.stringify(one), 60);
      return { text: `at ${found.place} ${show(found.got)}, in place of ${show(found.expected)}` };
    },
  };
}

function compareWithFile(bytes: Uint8Array, path: string): Got | undefined {
  let wanted: Uint8Array;
  try {
    wanted = readFileSync(path);
  } catch (error) {
    return {
      text: `a body that cannot be compared: the file is not readable (${(error as NodeJS.ErrnoException).code})`,
    };
  }
  if (sameBytes(bytes, wanted)) return undefined;
  return { text: `${formatCount(bytes.length)} bytes, ${describeFirstDifference(wanted, bytes)}` };
}

export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && Buffer.compare(a, b) === 0;
}

/** Where two runs of bytes part, in words: the byte, and for text the line. */
export function describeFirstDifference(wanted: Uint8Array, got: Uint8Array): string {
  let at = 0;
  while (at < got.length && at < wanted.length && got[at] === wanted[at]) at++;
  const line = Buffer.from(got.subarray(0, at)).toString("latin1").split("\n").length;
  const place = `byte ${formatCount(at)} (line ${formatCount(line)})`;
  if (at === got.length) return `which end at ${place} of ${formatCount(wanted.length)}`;
  if (at === wanted.length) return `which go on after ${place}`;
  return `other from ${place} on`;
}

function showAround(text: string, at: number, length: number): string {
  const [from, to] = [Math.max(0, at - 24), Math.min(text.length, at + length + 24)];
  const piece = text.slice(from, to).replace(/\s+/g, " ");
  return `${from > 0 ? "…" : ""}${piece}${to < text.length ? "…" : ""}`;
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

function shorten(text: string, length: number): string {
  return text.length > length ? `${text.slice(0, length - 1)}…` : text;
}
