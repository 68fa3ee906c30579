import { formatFieldName } from "../../core/fields/grammar.js";
import { own } from "../../core/text/own.js";
import { formatCount } from "../../core/text/size.js";
import type { Question, Reply } from "../ask/ask.js";
import { mergeFields } from "../ask/ask.js";
import type { FollowUpWritten } from "../format/follow-up-written.js";
import { describeBody, describeFirstDifference, sameBytes } from "./body.js";
import type { Check, Seen } from "./check.js";
import { listCodings, readContent } from "./content.js";
import { checkCoding, checkStatus } from "./expectation.js";
import { checkField, compareValue } from "./field.js";
import { isOfOneMessage } from "./noise.js";

/** A further request for the same resource, and what its answer must be. */
export interface NextQuestion {
  /** What it is, in words: `asked again with its entity tag`. */
  readonly name: string;
  readonly question: Question;
  readonly checks: readonly Check[];
  /** What is asked on from its answer. */
  readonly followUps?: readonly FollowUp[];
}

/** What to ask after a first answer: further questions, or why there can be none. */
export interface FollowUp {
  readonly name: string;
  plan(first: Seen): readonly NextQuestion[] | { readonly problem: string; readonly expected?: string };
}

/** Makes a follow-up of what is written. */
export function compileFollowUp(written: FollowUpWritten): FollowUp {
  if (written === "revisit") return { name: "revisit", plan: planRevisit };
  if (written === "head") return { name: "head", plan: planHead };
  if (written === "range") return { name: "range", plan: (first) => planRange(first, undefined) };
  if (written === "coding") return { name: "coding", plan: (first) => planCoding(first, ["br", "gzip"]) };
  if ("range" in written) return { name: "range", plan: (first) => planRange(first, written.range) };
  return { name: "coding", plan: (first) => planCoding(first, [written.coding].flat()) };
}

const withHeaders = ({ question }: Seen, headers: Record<string, string>): Question => ({
  ...question,
  headers: mergeFields<string | readonly string[]>(question.headers, headers),
});

export const emptyBody: Check = {
  about: "body",
  expected: "an empty body",
  look: ({ reply }) => (reply.body.length === 0 ? undefined : { text: describeBody(reply) }),
};

/** RFC 9110 §15.4.5: fields that a 304 repeats from the 200, where that has them. */
const REPEATED = ["ETag", "Cache-Control", "Content-Location", "Vary"];

/** The checks of a 304 to somebody who holds this answer. */
export function checkNotModified({ reply }: Pick<Seen, "reply">): Check[] {
  const repeated = REPEATED.filter((name) => reply.headers[name.toLowerCase()] !== undefined).map((name) =>
    compareValue(name, reply.headers[name.toLowerCase()]!, (seen) => seen.reply.headers[name.toLowerCase()]),
  );
  // A time that counts from now is another one by then.
  const expires: Check = {
    about: "Expires",
    expected: "a date, because the 200 has one",
    look: (seen) => (seen.reply.headers.expires === undefined ? { text: "nothing" } : undefined),
  };
  const dated = reply.headers.expires === undefined ? [] : [expires];
  return [checkStatus([304]), emptyBody, ...repeated, ...dated];
}

function planRevisit(first: Seen): readonly NextQuestion[] | { problem: string } {
  const { etag, "last-modified": lastModified } = first.reply.headers;
  const next: NextQuestion[] = [];
  const checks = checkNotModified(first);
  if (etag !== undefined) {
    const question = withHeaders(first, { "If-None-Match": etag });
    next.push({ name: "asked again with its entity tag", question, checks });
  }
  if (lastModified !== undefined) {
    const question = withHeaders(first, { "If-Modified-Since": lastModified });
    next.push({ name: "asked again with its date", question, checks });
  }
  return next.length > 0
    ? next
    : { problem: "neither ETag nor Last-Modified, so nobody can ask whether a copy is current" };
}

/** Fields that HEAD may leave out (RFC 9110 §9.3.2), and such as count from now. */
const OPTIONAL_WITH_HEAD = new Set(["content-length", "vary"]);
const COUNTS_FROM_NOW = new Set(["expires", "set-cookie"]);

/** RFC 9110 §9.3.2: HEAD sends the fields that GET would send, and no body. */
function planHead(first: Seen): readonly NextQuestion[] {
  const { reply } = first;
  const same = Object.entries(reply.headers)
    .filter(([name]) => !isOfOneMessage(name) && !COUNTS_FROM_NOW.has(name))
    .map(([name, value]): Check => {
      const check = compareValue(formatFieldName(name), value, (seen) => own(seen.reply.headers, name));
      if (!OPTIONAL_WITH_HEAD.has(name)) return check;
      return { ...check, look: (seen) => (name in seen.reply.headers ? check.look(seen) : undefined) };
    });
  const question = { ...first.question, method: "HEAD" };
  return [{ name: "asked with HEAD", question, checks: [checkStatus([reply.status]), emptyBody, ...same] }];
}

function planRange(
  { ...first }: Seen,
  written: string | undefined,
): readonly NextQuestion[] | { problem: string } {
  const { body } = first.reply;
  if (body.length === 0) return { problem: "an empty body, which has no ranges" };
  const field = written ?? (body.length < 3 ? "bytes=0-0" : `bytes=1-${Math.min(body.length - 2, 100)}`);
  const range = resolveRange(field, body.length);
  if (range === undefined)
    return {
      problem: `a body of ${formatCount(body.length)} bytes, and ${field} is not in it`,
    };
  const { from, to } = range;
  const checks = [
    checkStatus([206]),
    ...checkField("Content-Range", `bytes ${from}-${to}/${body.length}`),
    checkBytes(`bytes ${from} to ${to} of the whole`, body.subarray(from, to + 1)),
    ...["content-type", "content-encoding", "etag"]
      .filter((name) => name in first.reply.headers)
      .flatMap((name) => checkField(formatFieldName(name), first.reply.headers[name]!)),
  ];
  return [{ name: `asked for ${field}`, question: withHeaders(first, { Range: field }), checks }];
}

/** The bytes that a Range field of one range means (RFC 9110 §14.1.2), both ends included; undefined when there are none. */
export function resolveRange(field: string, length: number): { from: number; to: number } | undefined {
  const match = /^bytes=(\d*)-(\d*)$/.exec(field);
  if (match === null || (match[1] === "" && match[2] === "")) return undefined;
  const from = match[1] === "" ? Math.max(0, length - Number(match[2])) : Number(match[1]);
  const to = match[1] === "" || match[2] === "" ? length - 1 : Math.min(Number(match[2]), length - 1);
  return from > to ? undefined : { from, to };
}

/** Demands that the body, as it comes, is these bytes. */
export function checkBytes(expected: string, bytes: Uint8Array): Check {
  return {
    about: "body",
    expected,
    look({ reply }) {
      if (sameBytes(reply.body, bytes)) return undefined;
      return {
        text: `${formatCount(reply.body.length)} bytes, ${describeFirstDifference(bytes, reply.body)}`,
      };
    },
  };
}

/** RFC 9110 §12.5.3, §8.4: with a coding it is sent in it, says so, varies by it, and means the same. */
function planCoding(first: Seen, codings: readonly string[]): readonly NextQuestion[] {
  return codings.map((coding) => ({
    name: `asked in the coding ${coding}`,
    question: withHeaders(first, { "Accept-Encoding": coding }),
    checks: [
      checkStatus([first.reply.status]),
      checkCoding([coding]),
      ...checkField("Vary", { lists: "Accept-Encoding" }),
      sameContent(first.reply),
    ],
  }));
}

/** Demands the content of another answer, whatever the coding of either. */
export function sameContent(first: Reply): Check {
  return {
    about: "body",
    expected: "the same content as without the coding",
    look({ reply }) {
      const [wanted, got] = [readContent(first), readContent(reply)];
      if (!wanted.ok || !got.ok)
        return { text: wanted.ok ? (got as { problem: string }).problem : wanted.problem };
      if (sameBytes(wanted.bytes, got.bytes)) return undefined;
      const how = listCodings(reply.headers).join(", ") || "no coding";
      return {
        text: `${describeBody(reply)} in ${how}, ${describeFirstDifference(wanted.bytes, got.bytes)}`,
      };
    },
  };
}
