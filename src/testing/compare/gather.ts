import { differs } from "./compare.js";
import type { FieldDifference } from "./fields.js";
import type { Comparison } from "./pair.js";

/** The differences to tell, those that are the same for many addresses once. With `all` those of dates and connection fields, too. */
export function gatherComparisons(comparisons: readonly Comparison[], all: boolean): Comparison[][] {
  const groups = new Map<string, Comparison[]>();
  for (const one of comparisons) {
    if (!differs(one) && !(all && one.fields.length > 0)) continue;
    const { unanswered, status, body, reasons, question } = one;
    const key = JSON.stringify([
      unanswered,
      status,
      listFields(one, all).map((field) => (VALUED.test(field.name) ? presence(field) : field)),
      // Contents differ each in their own place; the reason is what they share.
      body === undefined ? undefined : [reasons.length > 0 ? "" : body],
      reasons,
      question.method,
    ]);
    const before = groups.get(key);
    if (before === undefined) groups.set(key, [one]);
    else before.push(one);
  }
  return [...groups.values()];
}

// Which tag or date it is differs from file to file; that one is missing is what they share.
const VALUED = /^(?:etag|last-modified|date|age|content-length)$/;

function presence({ name, here, there }: FieldDifference): unknown {
  return [name, here === undefined, there === undefined];
}

/** The fields in which two answers differ. */
export function listFields({ fields }: Comparison, all: boolean): Comparison["fields"] {
  return all ? fields : fields.filter(({ noise }) => !noise);
}
