import { formatHttpDate, parseHttpDate } from "../../core/fields/http-date.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check } from "../checks/check.js";
import { checkStatus } from "../checks/expectation.js";
import { checkNotModified, emptyBody } from "../checks/follow-ups.js";
import type { Sample, Sampled } from "../discover/sample.js";
import { again, asAdvice, demand, makeCase, type Pack, pickByKind, skipCase } from "./pack.js";

const OTHER_TAG = '"no-such-tag"';
const LONG_AGO = "Sat, 01 Jan 2000 00:00:00 GMT";

/** RFC 9110 §8.8, §13, §15.4.5: validators, and answers to clients with a copy. */
export const conditional: Pack = (sample) => {
  const picked = pickByKind(sample, 4);
  if (picked.length === 0) return [skipCase("validators", "the site answers no address with a file")];
  return [
    ...sample.resources.map(askForValidator),
    ...findSharedTag(sample),
    ...picked.flatMap(byTag),
    ...picked.flatMap(byDate),
  ];
};

/** A tag is about one address, so two may have the same by chance; three contents have not. */
const SHARED_BY = 3;

// RFC 9110 §8.8.3: one tag for everything tells nothing apart.
function findSharedTag({ resources }: Sample): Case[] {
  const byTag = new Map<string, Sampled[]>();
  for (const one of resources) {
    const { etag } = one.reply.headers;
    const alike = byTag.get(etag ?? "") ?? [];
    if (etag !== undefined && !alike.some((other) => sameBytes(other.reply.body, one.reply.body)))
      byTag.set(etag, [...alike, one]);
  }
  const [first, second] = [...byTag.values()].find((alike) => alike.length >= SHARED_BY) ?? [];
  if (first === undefined || second === undefined) return [];
  const { etag } = first.reply.headers;
  const check = demand("ETag", `a different one from ${first.path} and others`, ({ reply }) =>
    reply.headers.etag === etag ? `the same tag for another content: ${etag}` : undefined,
  );
  const why = "RFC 9110 §8.8.1: a tag means one content";
  return [makeCase(`${second.path} has its own entity tag`, second.question, [check], why)];
}

// RFC 9110 §8.8.1: it changes with the content, and not with the question.
function sameAsBefore({ reply: before }: Sampled, name: string, shown: string): Check {
  return demand(shown, "the same each time, if the content is the same", ({ reply }) => {
    const [was, is] = [before.headers[name], reply.headers[name]];
    return was === is || !sameBytes(before.body, reply.body)
      ? undefined
      : `${is ?? "nothing"}, and ${was ?? "nothing"} before: it changes each time`;
  });
}

// A directory's list is made again for each visitor, and need not have one.
function askForValidator(one: Sampled): ReturnType<Pack>[number] {
  const asked = makeCase(
    `${one.path} can be revalidated`,
    one.question,
    [
      demand("validators", "an ETag or a Last-Modified", ({ reply: { headers } }) =>
        headers.etag === undefined && headers["last-modified"] === undefined ? "neither" : undefined,
      ),
      sameAsBefore(one, "etag", "ETag"),
      sameAsBefore(one, "last-modified", "Last-Modified"),
    ],
    "RFC 9110 §8.8: without a validator every visit fetches it whole",
  );
  return one.path.endsWith("/") && one.path !== "/"
    ? asAdvice(
        asked,
        "Also send an ETag or a Last-Modified with lists: without one, every visit fetches them whole.",
      )
    : asked;
}

function byTag(one: Sampled): ReturnType<Pack> {
  const { etag, "last-modified": date } = one.reply.headers;
  if (etag === undefined) return [];
  const { path } = one;
  const notModified = checkNotModified(one);
  const weak = etag.startsWith("W/");
  const caseOf = (
    what: string,
    headers: Record<string, string>,
    checks: typeof notModified,
    reason: string,
  ) => makeCase(`${path}, ${what}`, again(one, headers), checks, reason);
  const whole = [checkStatus([200])];
  return [
    makeCase(
      `${path}, its entity tag is valid`,
      one.question,
      [
        demand("ETag", 'text in quotes, W/ before it when it is weak, such as "5f3a"', ({ reply }) =>
          /^(?:W\/)?"[\x21\x23-\x7e\x80-\xff]*"$/.test(reply.headers.etag ?? "")
            ? undefined
            : (reply.headers.etag ?? "nothing"),
        ),
      ],
      "RFC 9110 §8.8.3",
    ),
    caseOf("asked with its entity tag", { "If-None-Match": etag }, notModified, "RFC 9110 §13.1.2, §15.4.5"),
    caseOf(
      "asked with a list that has its entity tag",
      { "If-None-Match": `${OTHER_TAG}, ${etag}` },
      notModified,
      "RFC 9110 §13.1.2",
    ),
    caseOf(
      "asked with its entity tag made weak or strong",
      { "If-None-Match": weak ? etag.slice(2) : `W/${etag}` },
      notModified,
      "RFC 9110 §13.1.2: If-None-Match compares weakly",
    ),
    caseOf("asked with *", { "If-None-Match": "*" }, [checkStatus([304]), emptyBody], "RFC 9110 §13.1.2"),
    caseOf("asked with another entity tag", { "If-None-Match": OTHER_TAG }, whole, "RFC 9110 §13.1.2"),
    ...(date === undefined
      ? []
      : [
          caseOf(
            "asked with another entity tag and its date",
            { "If-None-Match": OTHER_TAG, "If-Modified-Since": date },
            whole,
            "RFC 9110 §13.1.3: If-None-Match comes before If-Modified-Since",
          ),
        ]),
    caseOf(
      "asked for only with another entity tag",
      { "If-Match": OTHER_TAG },
      [checkStatus([412])],
      "RFC 9110 §13.1.1",
    ),
    ...(weak
      ? []
      : [caseOf("asked for only with its entity tag", { "If-Match": etag }, whole, "RFC 9110 §13.1.1")]),
  ];
}

function byDate(one: Sampled): ReturnType<Pack> {
  const date = one.reply.headers["last-modified"];
  if (date === undefined) return [];
  const { path } = one;
  const whole = [checkStatus([200])];
  const later = anHourLater(date);
  const caseOf = (what: string, headers: Record<string, string>, checks: typeof whole, reason: string) =>
    makeCase(`${path}, ${what}`, again(one, headers), checks, reason);
  return [
    makeCase(
      `${path}, its date is valid, and not in the future`,
      one.question,
      [
        demand(
          "Last-Modified",
          "a date such as Sun, 06 Nov 1994 08:49:37 GMT, not later than now",
          ({ reply }) => {
            const now = Date.now() / 1000;
            const text = reply.headers["last-modified"] ?? "nothing";
            const seconds = parseHttpDate(text, now);
            return seconds === undefined || seconds > now + 60 ? text : undefined;
          },
        ),
      ],
      "RFC 9110 §8.8.2.1, §5.6.7",
    ),
    caseOf("asked with its date", { "If-Modified-Since": date }, checkNotModified(one), "RFC 9110 §13.1.3"),
    ...(later === undefined
      ? []
      : [
          caseOf(
            "asked with a later date",
            { "If-Modified-Since": later },
            checkNotModified(one),
            "RFC 9110 §13.1.3: a copy with the same or a later date is current",
          ),
        ]),
    caseOf("asked with an older date", { "If-Modified-Since": LONG_AGO }, whole, "RFC 9110 §13.1.3"),
    caseOf(
      "asked with an invalid date",
      { "If-Modified-Since": "yesterday" },
      whole,
      "RFC 9110 §13.1.3: an invalid date is ignored",
    ),
    caseOf(
      "asked for only if unchanged for a long time",
      { "If-Unmodified-Since": LONG_AGO },
      [checkStatus([412])],
      "RFC 9110 §13.1.4",
    ),
  ];
}

// A date that is still to come is none (RFC 9110 §13.1.3).
function anHourLater(date: string): string | undefined {
  const now = Date.now() / 1000;
  const seconds = parseHttpDate(date, now);
  return seconds === undefined || seconds + 3600 > now - 60 ? undefined : formatHttpDate(seconds + 3600);
}
