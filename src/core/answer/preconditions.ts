import { type EntityTag, matchesStrongly, matchesWeakly, parseTagList } from "../fields/entity-tag.js";
import { parseHttpDate } from "../fields/http-date.js";
import { fieldValue, type RequestHeaders } from "../request/request.js";

/** What the preconditions of a request are compared with. Times in seconds since the epoch. */
export interface Validators {
  readonly tag: EntityTag;
  /** Undefined where no date is known: conditions about one are ignored then (RFC 9110 §13.1.3, §13.1.4). */
  readonly lastModifiedSeconds: number | undefined;
}

export type Verdict =
  | { outcome: "proceed" }
  | { outcome: "not-modified"; field: "if-none-match" | "if-modified-since" }
  | { outcome: "failed"; field: "if-match" | "if-unmodified-since" };

const PROCEED: Verdict = { outcome: "proceed" };

/**
 * Evaluates the preconditions of a GET or HEAD request for a representation that exists, in the order of
 * RFC 9110 §13.2.2. Step 5 (If-Range) belongs to the range stage.
 */
export function evaluatePreconditions(
  headers: RequestHeaders,
  validators: Validators,
  nowSeconds: number,
): Verdict {
  const ifMatch = fieldValue(headers, "if-match");
  const ifUnmodifiedSince = fieldValue(headers, "if-unmodified-since");
  const { lastModifiedSeconds } = validators;
  const ifNoneMatch = fieldValue(headers, "if-none-match");
  const ifModifiedSince = fieldValue(headers, "if-modified-since");

  // Step 1, §13.1.1
  if (ifMatch !== undefined) {
    if (!someTag(ifMatch, validators.tag, matchesStrongly)) return { outcome: "failed", field: "if-match" };
  }
  // Step 2, §13.1.4: a date that cannot be read is ignored
  else if (ifUnmodifiedSince !== undefined) {
    const limit = parseHttpDate(ifUnmodifiedSince, nowSeconds);
    if (limit !== undefined && lastModifiedSeconds !== undefined && lastModifiedSeconds > limit) {
      return { outcome: "failed", field: "if-unmodified-since" };
    }
  }
  // Step 3, §13.1.2
  if (ifNoneMatch !== undefined) {
    return someTag(ifNoneMatch, validators.tag, matchesWeakly)
      ? { outcome: "not-modified", field: "if-none-match" }
      : PROCEED;
  }
  // Step 4, §13.1.3
  if (ifModifiedSince !== undefined) {
    const since = parseHttpDate(ifModifiedSince, nowSeconds);
    if (since !== undefined && lastModifiedSeconds !== undefined && lastModifiedSeconds <= since) {
      return { outcome: "not-modified", field: "if-modified-since" };
    }
  }
  return PROCEED;
}

function someTag(field: string, tag: EntityTag, matches: (a: EntityTag, b: EntityTag) => boolean): boolean {
  const list = parseTagList(field);
  return list === "*" || list.some((candidate) => matches(candidate, tag));
}
