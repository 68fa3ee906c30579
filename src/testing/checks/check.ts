import type { Question, Reply } from "../ask/ask.js";

/** A question with its answer, and where it was asked: what a check looks at. */
export interface Seen {
  readonly question: Question;
  readonly reply: Reply;
  /** The base address, without a slash at its end. */
  readonly address: string;
}

/** One thing that an answer must have. */
export interface Check {
  /** What it is about: `status`, `media type`, a header field's name, `body`. */
  readonly about: string;
  /** What is wanted, in words or as the value itself. */
  readonly expected: string;
  /** Only the process that answers can tell; over the network it is left out. */
  readonly insideOnly?: boolean;
  /** Only the network tells; in process it is left out. */
  readonly wireOnly?: boolean;
  /** Undefined when it holds; otherwise what came instead. */
  look(seen: Seen): Got | undefined;
}

/** What came instead. */
export interface Got {
  readonly text: string;
  /** Expected and got are values of one kind, and can be laid side by side. */
  readonly comparable?: boolean;
}

/** One thing that is not as expected. */
export interface Difference {
  readonly about: string;
  readonly expected: string;
  readonly got: string;
  /** Expected and got are values of one kind: what differs between them can be marked. */
  readonly comparable: boolean;
}

/**
 * Every difference, in the order of the checks. With another status than the expected one the body is another one too, and
 * nothing is said of it.
 */
export function findDifferences(checks: readonly Check[], seen: Seen): Difference[] {
  const differences: Difference[] = [];
  for (const check of checks) {
    if (!isKnown(check, seen)) continue;
    if (check.about === "body" && differences.some(({ about }) => about === "status")) continue;
    const got = check.look(seen);
    if (got === undefined) continue;
    const { about, expected } = check;
    differences.push({ about, expected, got: got.text, comparable: got.comparable ?? false });
  }
  return differences;
}

/** True where what a check looks at can be known of an answer. */
export function isKnown({ insideOnly, wireOnly }: Check, { reply }: Pick<Seen, "reply">): boolean {
  return !(insideOnly && reply.inside === undefined) && !(wireOnly && reply.inside !== undefined);
}

/** The part in which two values differ: what is between their common beginning and their common end. */
export function markDifference(expected: string, got: string): { start: number; end: number } {
  let start = 0;
  while (start < got.length && got[start] === expected[start]) start++;
  let fromEnd = 0;
  const most = Math.min(got.length, expected.length) - start;
  while (fromEnd < most && got.at(-1 - fromEnd) === expected.at(-1 - fromEnd)) fromEnd++;
  return { start, end: got.length - fromEnd };
}
