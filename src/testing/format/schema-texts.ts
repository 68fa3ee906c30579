import * as z from "zod";
import { parseDuration } from "../../config/durations.js";

type Test = (text: string) => boolean;

/** A text that a test lets pass; what is wanted otherwise, in words. */
export const textThat = (holds: Test, wanted: string | ((text: string) => string)) =>
  z.string().check((payload) => {
    if (holds(payload.value)) return;
    const message = typeof wanted === "string" ? wanted : wanted(payload.value);
    payload.issues.push({ code: "custom", input: payload.value, message, continue: false });
  });

export const oneOrMore = <Schema extends z.ZodType>(schema: Schema) =>
  z.union([schema, z.array(schema).min(1)]);

/** A group of keys of which at least one is needed: an empty one would hold of everything. */
export const notEmpty = (wanted: string) => (payload: { value: object; issues: unknown[] }) => {
  if (Object.keys(payload.value).length > 0) return;
  payload.issues.push({ code: "custom", input: payload.value, message: wanted, continue: false });
};

const isPattern = (text: string, flags: string): boolean => {
  try {
    new RegExp(text, flags);
    return true;
  } catch {
    return false;
  }
};

const NEEDED = 'a regular expression of JavaScript is needed, such as "^max-age=\\\\d+$"';
/** As scripts write it; a pattern that only begins and ends with a slash may be meant. */
const WITH_SLASHES = /^\/(.+)\/(i|gi?|ig|m|s|is|im)$/s;

const patternText = z.string().check(({ value, issues }) => {
  const [, inner, flags] = WITH_SLASHES.exec(value) ?? [];
  const wanted =
    inner !== undefined
      ? `a pattern is written without slashes: write { pattern: ${JSON.stringify(inner)}, flags: ${flags!.replace("g", "") || "i"} }`
      : isPattern(value, "u")
        ? undefined
        : NEEDED;
  if (wanted !== undefined) issues.push({ code: "custom", input: value, message: wanted, continue: false });
});

/** A regular expression: a text, or a text and its flags. */
export const pattern = z.union([
  patternText,
  z.strictObject({
    pattern: patternText.describe("A regular expression of JavaScript."),
    flags: textThat(
      (text) => /^[ims]{1,3}$/.test(text) && isPattern("", text),
      "the flags are i (case is ignored), m (^ and $ match at lines) and s (. also matches line breaks)",
    ).describe("i: case is ignored; m: ^ and $ match at lines; s: . also matches line breaks."),
  }),
]);
export type WrittenPattern = z.output<typeof pattern>;

/** The expression of a written pattern; `more` are the flags that it has anyway. */
export function toExpression(written: WrittenPattern, more = ""): RegExp {
  const [text, own] = typeof written === "string" ? [written, ""] : [written.pattern, written.flags];
  return new RegExp(text, [...new Set(`u${more}${own}`)].join(""));
}

/** The pattern as a report shows it. */
export function showPattern(written: WrittenPattern): string {
  return typeof written === "string" ? `/${written}/` : `/${written.pattern}/${written.flags}`;
}

/** A number, or bounds of one. */
export const bound = (schema: z.ZodNumber | z.ZodInt, of: string) =>
  z.union([
    schema,
    z
      .strictObject({
        atLeast: schema.optional().describe(`The smallest ${of}.`),
        atMost: schema.optional().describe(`The largest ${of}.`),
      })
      .check(notEmpty("a bound is needed: write { atLeast: 1 } or { atMost: 10 }")),
  ]);
export type Bound = number | { atLeast?: number | undefined; atMost?: number | undefined };

export function isWithin(value: number, wanted: Bound): boolean {
  if (typeof wanted === "number") return value === wanted;
  return (
    value >= (wanted.atLeast ?? Number.NEGATIVE_INFINITY) &&
    value <= (wanted.atMost ?? Number.POSITIVE_INFINITY)
  );
}

export function showBound(wanted: Bound, show: (value: number) => string = String): string {
  if (typeof wanted === "number") return show(wanted);
  const { atLeast, atMost } = wanted;
  if (atLeast === undefined) return `at most ${show(atMost!)}`;
  return atMost === undefined ? `at least ${show(atLeast)}` : `${show(atLeast)} to ${show(atMost)}`;
}

const METHOD = /^[!#$%&'*+\-.^_`|~\w]+$/;
export const method = textThat((text) => METHOD.test(text), "a method is a word, such as GET");

/** A path, a whole address, `*`, or the use of a remembered value. */
export const isTarget: Test = (text) => /^(?:\/|https?:\/\/|\$\{\w+\})\S*$/.test(text) || text === "*";
export const target = textThat(
  isTarget,
  'a path starts with a slash and has no blanks: write it as "/guide/", a blank as %20',
);
export const path = textThat(
  (text) => /^\/\S*$/.test(text) || text === "*",
  'a path starts with a slash and has no blanks: write it as "/guide/", a blank as %20',
);

export const fieldName = z
  .string()
  .regex(METHOD, { error: "the name of a header field is needed, such as Accept" });
/** A text, or a number, which YAML makes of what looks like one. */
export const textOrNumber = z.union([z.string(), z.number()]).transform(String);
const fieldValue = textOrNumber.check((payload) => {
  if (/[\r\n\0]/.test(payload.value))
    payload.issues.push({
      code: "custom",
      input: payload.value,
      message: "a field's value has no line break: write it in one line",
      continue: false,
    });
});
export const requestFields = z.record(fieldName, oneOrMore(fieldValue));

export const duration = z.union([z.string(), z.int().min(1)]).check((payload) => {
  if (!parseDuration(payload.value))
    payload.issues.push({
      code: "custom",
      input: payload.value,
      message: "a time is a number of seconds, or written as 10s or 2m",
      continue: false,
    });
});

/** Reads `200ms`, `2s` or a number of seconds, in milliseconds. */
export function parseShortTime(written: string | number): number | undefined {
  const match = /^(\d{1,7})ms$/.exec(String(written));
  if (match !== null) return Number(match[1]);
  const seconds = parseDuration(written);
  return seconds === undefined ? undefined : seconds * 1000;
}

export const shortTime = z.union([z.string(), z.int().min(1)]).check((payload) => {
  if (!parseShortTime(payload.value))
    payload.issues.push({
      code: "custom",
      input: payload.value,
      message: "a short time is written as 200ms or 2s",
      continue: false,
    });
});
