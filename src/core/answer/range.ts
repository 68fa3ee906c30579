import { type EntityTag, matchesStrongly, parseTagList } from "../fields/entity-tag.js";
import { parseHttpDate } from "../fields/http-date.js";
import { parseRange, type RangeSpec } from "../fields/range.js";

/** A range of a representation: both positions included. */
export interface ByteRange {
  readonly first: number;
  readonly last: number;
}

export type RangeVerdict =
  | { outcome: "whole" }
  | { outcome: "partial"; ranges: readonly ByteRange[] }
  | { outcome: "unsatisfiable" };

/**
 * More ranges than anyone needs: the whole is sent in their place (RFC 9110 §14.2, §17.15). Programs that fetch only what changed in a file
 * ask for 20. Ranges never overlap, so what is sent is the file at most, and about 120 bytes a part: 8 KB here.
 */
const RANGES_AT_MOST = 64;
const WHOLE: RangeVerdict = { outcome: "whole" };

/** What to send of `size` bytes for a Range field: the whole, some ranges, or nothing that can be satisfied. */
export function decideRange(value: string, size: number): RangeVerdict {
  const specs = parseRange(value);
  if (specs === undefined || specs.length > RANGES_AT_MOST) return WHOLE;
  const ranges = specs.map((spec) => resolveSpec(spec, size)).filter((range) => range !== undefined);
  if (ranges.length === 0) return { outcome: "unsatisfiable" };
  // §14.1.2: a suffix of an empty representation is satisfiable, and there is no way to say "nothing" in Content-Range.
  if (size === 0) return WHOLE;
  if (overlap(ranges)) return WHOLE;
  return { outcome: "partial", ranges };
}

function resolveSpec(spec: RangeSpec, size: number): ByteRange | undefined {
  if (spec.from === "end") {
    return spec.length === 0 ? undefined : { first: Math.max(0, size - spec.length), last: size - 1 };
  }
  if (spec.first >= size) return undefined;
  return { first: spec.first, last: Math.min(spec.last ?? size - 1, size - 1) };
}

function overlap(ranges: readonly ByteRange[]): boolean {
  const sorted = [...ranges].sort((a, b) => a.first - b.first);
  return sorted.some((range, i) => i > 0 && range.first <= sorted[i - 1]!.last);
}

/**
 * True when the Range field of a request may be followed: there is no If-Range, or it matches (RFC 9110 §13.1.5, §13.2.2
 * step 5). A tag is compared strongly; a date must be the very date, and one that is a strong validator (§8.8.2.2).
 */
export function matchesIfRange(
  value: string | undefined,
  tag: EntityTag,
  lastModifiedSeconds: number | undefined,
  nowSeconds: number,
): boolean {
  if (value === undefined) return true;
  if (/^(?:W\/)?"/.test(value)) {
    const list = parseTagList(value);
    return list !== "*" && list.length === 1 && matchesStrongly(list[0]!, tag);
  }
  return (
    lastModifiedSeconds !== undefined &&
    parseHttpDate(value, nowSeconds) === lastModifiedSeconds &&
    lastModifiedSeconds < nowSeconds
  );
}
