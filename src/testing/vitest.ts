import { expect } from "vitest";
import { type Difference, findDifferences } from "./checks/check.js";
import { checkMatch } from "./checks/field.js";
import type { Expectation } from "./format/expectation-types.js";
import { describeUnmet, findUnmet } from "./meet.js";
import { type Answered, toSeen } from "./probe.js";

/** The matchers for answers of a probe; importing this module adds them to `expect`. */
export interface AnswerMatchers {
  /** Is as an expectation says, written as in an expectations file: `toMeet({ status: 200, mediaType: "text/html" })`. */
  toMeet(expectation: Expectation): void;
  /** Has this status, or one of some. */
  toAnswerWith(status: number | number[]): void;
  /** Has this media type, and charset where one is given. */
  toHaveMediaType(mediaType: string, charset?: string): void;
  /** Has a header field: any, this value, or a match. */
  toCarry(field: string, value?: string | RegExp): void;
  /** Is kept as these words say: `"revalidated each time"`, `"fresh for at least 1 year"`, `"not stored"`. */
  toBeCached(words: string | string[]): void;
  /** Redirects to a path of the site, or to a whole address. */
  toLeadTo(address: string): void;
  /** Is answered by this file, such as `/guide/index.html`; in process only. */
  toComeFrom(file: string): void;
}

declare module "vitest" {
  // biome-ignore lint/suspicious/noExplicitAny: a declaration that is merged repeats the parameters of the first
  interface Matchers<T = any> extends AnswerMatchers {}
}

type Outcome = { pass: boolean; message: () => string };

function judge(received: unknown, expectation: Expectation): Outcome {
  const answer = readAnswered(received);
  return decide(answer, findUnmet(answer, expectation), JSON.stringify(expectation));
}

// A pattern of the test's own keeps its flags, which an expectations file has no place for.
function judgeMatch(received: unknown, field: string, pattern: RegExp): Outcome {
  const answer = readAnswered(received);
  const check = checkMatch(field, pattern);
  return decide(answer, findDifferences([check], toSeen(answer)), `${field}: ${check.expected}`);
}

function decide(answer: Answered, differences: readonly Difference[], expected: string): Outcome {
  const { method, path } = answer.question;
  return {
    pass: differences.length === 0,
    message: () =>
      differences.length > 0
        ? describeUnmet(answer, differences)
        : `${method} ${path} is as expected, but should not be: ${expected}`,
  };
}

function readAnswered(received: unknown): Answered {
  if (isAnswered(received)) return received;
  throw new TypeError("expect(…) got no answer of a probe; write expect(await probe.get(…)), with await.");
}

function isAnswered(value: unknown): value is Answered {
  return typeof value === "object" && value !== null && "question" in value && "headers" in value;
}

expect.extend({
  toMeet: (received: unknown, expectation: Expectation) => judge(received, expectation),
  toAnswerWith: (received: unknown, status: number | number[]) => judge(received, { status }),
  toHaveMediaType: (received: unknown, mediaType: string, charset?: string) =>
    judge(received, charset === undefined ? { mediaType } : { mediaType, charset }),
  toCarry: (received: unknown, field: string, value?: string | RegExp) =>
    value instanceof RegExp
      ? judgeMatch(received, field, value)
      : judge(received, { headers: { [field]: value ?? { present: true } } }),
  toBeCached: (received: unknown, caching: string | string[]) => judge(received, { caching }),
  toLeadTo: (received: unknown, redirect: string) => judge(received, { redirect }),
  toComeFrom: (received: unknown, answeredBy: string) => judge(received, { answeredBy }),
});
