import type { PartExpectation } from "../format/schema-expectation.js";
import { isWithin, showBound } from "../format/schema-texts.js";
import { type Check, findDifferences } from "./check.js";
import { checkField } from "./field.js";

/** One part of a multipart/byteranges body. */
export interface BodyPart {
  /** By lower-case name. */
  readonly headers: Readonly<Record<string, string>>;
  readonly bytes: Uint8Array;
}

/** The longest boundary that is allowed (RFC 2046 §5.1.1), in characters. */
const BOUNDARY_LENGTH = 70;

/** The boundary that a Content-Type names; undefined where it is no multipart type, or names none. */
export function readBoundary(contentType: string): string | undefined {
  const match = /^multipart\/byteranges\b[\s\S]*?;\s*boundary=(?:"([^"]{1,200})"|([^\s;,"]+))/i.exec(
    contentType,
  );
  const boundary = match?.[1] ?? match?.[2];
  return boundary !== undefined && boundary.length <= BOUNDARY_LENGTH ? boundary : undefined;
}

/** Reads a body of several parts (RFC 9110 §14.6, RFC 2046 §5.1), or says what is wrong with it. */
export function readParts(body: Uint8Array, boundary: string): { parts: BodyPart[] } | { problem: string } {
  const bytes = Buffer.from(body.buffer, body.byteOffset, body.byteLength);
  // Bytes are looked for, not a text: a boundary with letters beyond Latin ends the process under Node 24 otherwise.
  const mark = Buffer.from(`--${boundary}`);
  const nextMark = Buffer.from(`\r\n--${boundary}`);
  const parts: BodyPart[] = [];
  let at = bytes.indexOf(mark);
  if (at < 0) return { problem: `no part begins with the boundary ${JSON.stringify(boundary)}` };
  for (;;) {
    at += mark.length;
    if (bytes.toString("latin1", at, at + 2) === "--") return { parts };
    const lineEnd = bytes.indexOf("\r\n", at);
    const headEnd = bytes.indexOf("\r\n\r\n", lineEnd);
    if (lineEnd < 0 || headEnd < 0)
      return { problem: `the part ${parts.length + 1} has fields that do not end` };
    const next = bytes.indexOf(nextMark, headEnd + 2);
    if (next < 0)
      return {
        problem: `the closing boundary after ${parts.length + 1} ${parts.length === 0 ? "part" : "parts"} is missing`,
      };
    const head = headEnd === lineEnd ? "" : bytes.toString("latin1", lineEnd + 2, headEnd);
    parts.push({ headers: readFields(head), bytes: bytes.subarray(Math.min(headEnd + 4, next), next) });
    at = next + 2;
  }
}

function readFields(head: string): Record<string, string> {
  return Object.fromEntries(
    head.split("\r\n").flatMap((line) => {
      const colon = line.indexOf(":");
      return colon < 1 ? [] : [[line.slice(0, colon).trim().toLowerCase(), line.slice(colon + 1).trim()]];
    }),
  );
}

/** The checks of the parts of an answer, in their order. */
export function checkParts(wanted: readonly PartExpectation[]): Check[] {
  const whole: Check = {
    about: "parts",
    expected: `${wanted.length} ${wanted.length === 1 ? "part" : "parts"} of multipart/byteranges`,
    look({ reply: { headers, body } }) {
      const parts = partsOf(headers, body);
      if (typeof parts === "string") return { text: parts };
      return parts.length === wanted.length ? undefined : { text: String(parts.length) };
    },
  };
  return [whole, ...wanted.flatMap(checkPart)];
}

function partsOf(headers: Readonly<Record<string, string>>, body: Uint8Array): BodyPart[] | string {
  const type = headers["content-type"] ?? "no type";
  const boundary = readBoundary(type);
  if (boundary === undefined) return type;
  const read = readParts(body, boundary);
  return "problem" in read ? read.problem : read.parts;
}

function checkPart({ headers = {}, length, contains }: PartExpectation, index: number): Check[] {
  const demandOf = (expected: string, look: (part: BodyPart) => string | undefined): Check => ({
    about: `part ${index + 1}`,
    expected,
    look({ reply }) {
      const parts = partsOf(reply.headers, reply.body);
      const part = typeof parts === "string" ? undefined : parts[index];
      // That it is not there is said once.
      const got = part === undefined ? undefined : look(part);
      return got === undefined ? undefined : { text: got };
    },
  });
  const fields = Object.entries(headers).flatMap(([name, wanted]) =>
    checkField(name, wanted).map((check) =>
      demandOf(`${name}: ${check.expected}`, (part) => {
        const reply = { status: 206, headers: part.headers, body: part.bytes, inside: undefined };
        const question = { method: "GET", path: "/", headers: {} };
        return findDifferences([check], { question, reply, address: "" })[0]?.got;
      }),
    ),
  );
  return [
    ...fields,
    ...(length === undefined
      ? []
      : [
          demandOf(`${showBound(length)} bytes`, ({ bytes }) =>
            isWithin(bytes.length, length) ? undefined : `${bytes.length} bytes`,
          ),
        ]),
    ...(contains === undefined
      ? []
      : [
          demandOf(`a text with ${JSON.stringify(contains)}`, ({ bytes }) =>
            new TextDecoder().decode(bytes).includes(contains)
              ? undefined
              : `${bytes.length} bytes without it`,
          ),
        ]),
  ];
}
