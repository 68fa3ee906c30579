import { formatFieldName } from "../../core/fields/grammar.js";
import { parseHttpDate } from "../../core/fields/http-date.js";
import { formatCount } from "../../core/text/size.js";
import { mergeFields, type Question, type Reply } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { Check } from "../checks/check.js";
import type { FollowUp } from "../checks/follow-ups.js";
import type { Sample } from "../discover/sample.js";
import { again, demand, get, makeCase, type Pack, pickByKind, skipCase, withFollowUps } from "./pack.js";

/** Fields of which there is one (RFC 9110 §5.3, and the section of each). */
const ONCE = [
  "content-type",
  "content-length",
  "content-range",
  "content-location",
  "date",
  "etag",
  "last-modified",
  "expires",
  "location",
  "age",
  "retry-after",
];
/** How many files are asked for, each over its own connection, and none that is longer, in bytes. */
const FILES_AT_MOST = 40;
const READ_AT_MOST = 256 * 1024;
/** The slowest that the faster of two first bytes may be, in milliseconds. A machine may be busy for a moment: three times count. */
const FIRST_BYTE_MS = 800;
/** How far the server's clock may be from this one, in seconds: the one here may be wrong, too. */
const CLOCK_SECONDS = 3600;

/** RFC 9112, RFC 9110 §5, §6.6.1: messages end where they say, and their lines can be read. Asked over its own socket. */
export const framing: Pack = (sample) => {
  if (sample.inProcess)
    return [skipCase("the bytes on the wire", "it can only be checked over the network: give --against URL")];
  return listQuestions(sample).map(([name, question]) => overSocket(name, question));
};

function listQuestions(sample: Sample): [name: string, question: Question][] {
  const whole = sample.resources
    .filter(({ reply }) => reply.body.length <= READ_AT_MOST)
    .slice(0, FILES_AT_MOST);
  const picked = pickByKind(sample, 3, ({ reply }) => reply.body.length <= READ_AT_MOST);
  const inner = sample.directories.find((path) => path !== "/");
  const [first] = picked;
  return [
    ...sample.unanswered.map((path): [string, Question] => [`${path}, its message`, get(path)]),
    ...whole.map((one): [string, Question] => [`${one.path}, its message`, one.question]),
    ...picked.map((one): [string, Question] => [
      `${one.path} with HEAD, its message`,
      { ...one.question, method: "HEAD" },
    ]),
    ...picked.flatMap((one): [string, Question][] => {
      const { etag, "last-modified": date } = one.reply.headers;
      const held: Record<string, string> | undefined =
        etag !== undefined
          ? { "If-None-Match": etag }
          : date === undefined
            ? undefined
            : { "If-Modified-Since": date };
      return held === undefined ? [] : [[`${one.path}, its message with 304`, again(one, held)]];
    }),
    ...(first === undefined
      ? []
      : [
          [
            `${first.path} in a coding, its message`,
            {
              ...first.question,
              headers: mergeFields({ ...first.question.headers }, { "Accept-Encoding": "gzip" }),
            },
          ] as [string, Question],
        ]),
    ["the message of a missing address", get(sample.missingPath, { Accept: "*/*" })],
    ...(inner === undefined
      ? []
      : [
          [`${inner.slice(0, -1)}, the message of a redirect`, get(inner.slice(0, -1))] as [string, Question],
        ]),
  ];
}

function overSocket(name: string, question: Question): Case {
  const own = { ...question, ownSocket: true };
  const checks = [...ENDS, ...LINES, dateIsNow, newProtocol];
  return { ...withFollowUps(makeCase(name, own, checks, REASON), [speed]), only: "over the network" };
}

const REASON =
  "RFC 9112 §6, §9.3: the next answer on the connection begins where this one ends; otherwise caches and browsers mix them up";

const ends = (expected: string, look: (reply: Reply, question: Question) => string | undefined): Check =>
  demand("message", expected, ({ reply, question }) => look(reply, question));

const hasNoBody = (reply: Reply, { method }: Question): boolean =>
  method === "HEAD" || reply.status === 304 || reply.status === 204;

const ENDS: readonly Check[] = [
  ends("Content-Length or Transfer-Encoding, not both", ({ headers }) =>
    headers["content-length"] !== undefined && headers["transfer-encoding"] !== undefined
      ? `Content-Length: ${headers["content-length"]} and Transfer-Encoding: ${headers["transfer-encoding"]}`
      : undefined,
  ),
  ends("no body after a HEAD, a 204 or a 304", (reply, question) => {
    const { excess = 0 } = reply.wire?.message ?? {};
    if (excess === 0 || !hasNoBody(reply, question)) return undefined;
    const what = question.method === "HEAD" ? "HEAD" : String(reply.status);
    return `a body of ${formatCount(excess)} bytes after the ${what}`;
  }),
  ends("as many bytes as Content-Length", (reply, question) => {
    const { excess = 0, lacking = 0 } = reply.wire?.message ?? {};
    const length = reply.headers["content-length"];
    if (lacking > 0)
      return `it ends ${formatCount(lacking)} bytes before the Content-Length of ${length}: it is incomplete`;
    return excess > 0 && !hasNoBody(reply, question)
      ? `${formatCount(excess)} bytes more, after the end that ${length === undefined ? "its chunks say" : `Content-Length (${length}) says`}`
      : undefined;
  }),
  ends("chunks that can be read, the last one of size 0", (reply) => reply.wire?.message?.chunks),
];

const LINES: readonly Check[] = [
  ...ONCE.map((name) =>
    demand(formatFieldName(name), "one line at most", ({ reply: { lines = [] } }) => {
      const values = lines.filter(([one]) => one.toLowerCase() === name).map(([, value]) => value);
      return values.length > 1 ? `${values.length} lines: ${values.join(" | ")}` : undefined;
    }),
  ),
  // RFC 9112 §5, §5.1, §5.2; RFC 9110 §5.5.
  demand("field lines", "a name, a colon right after it, and a value in one line", ({ reply }) => {
    const [, ...lines] = (reply.wire?.message?.head ?? "").split(/\r?\n/);
    const bad = lines.find(
      (line) => line !== "" && !/^[!#$%&'*+\-.^_`|~\w]+:[\t\x20-\x7e\x80-\xff]*$/.test(line),
    );
    if (bad === undefined) return undefined;
    const why = /^[ \t]/.test(bad)
      ? "a value folded into a second line"
      : /^[^:]*[ \t]:/.test(bad)
        ? "a space before the colon"
        : "a character that is not allowed in fields";
    return `${why}: ${JSON.stringify(bad.slice(0, 80))}`;
  }),
];

// RFC 9110 §6.6.1: a server with a clock sends it with every answer but 1xx and 5xx.
const dateIsNow = demand(
  "Date",
  "the time of the answer, such as Sun, 06 Nov 1994 08:49:37 GMT",
  ({ reply }) => {
    const { date } = reply.headers;
    if (date === undefined) return reply.status >= 500 ? undefined : "nothing";
    const now = Date.now() / 1000;
    const seconds = parseHttpDate(date, now);
    if (seconds === undefined) return date;
    return Math.abs(seconds - now) > CLOCK_SECONDS
      ? `${date}, while it is ${new Date().toUTCString()} here`
      : undefined;
  },
);

const newProtocol = demand("HTTP version", "1.1", ({ reply }) =>
  reply.wire === undefined || reply.wire.httpVersion === "1.1" ? undefined : `HTTP/${reply.wire.httpVersion}`,
);

const isSlow = ({ wire }: Reply): boolean => (wire?.firstByteMilliseconds ?? 0) > FIRST_BYTE_MS;

const speed = askAgainWhileSlow(1);

function askAgainWhileSlow(left: number): FollowUp {
  const check = demand(
    "first byte",
    `within ${FIRST_BYTE_MS} ms, at least once of three times`,
    ({ reply }) =>
      isSlow(reply)
        ? `slow each time: after ${formatCount(Math.round(reply.wire?.firstByteMilliseconds ?? 0))} ms the last time`
        : undefined,
  );
  return {
    name: "once more",
    plan: ({ reply, question }) =>
      isSlow(reply)
        ? [
            {
              name: "asked once more",
              question,
              checks: left === 0 ? [check] : [],
              followUps: left === 0 ? [] : [askAgainWhileSlow(left - 1)],
            },
          ]
        : [],
  };
}
