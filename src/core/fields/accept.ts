import { readWeight, splitMembers, TCHAR } from "./grammar.js";

/** One entry of an Accept field: a media range and its weight, 0 to 1 (RFC 9110 §12.5.1, §12.4.2). */
export interface MediaRange {
  readonly type: string;
  readonly subtype: string;
  readonly weight: number;
}

const RANGE = new RegExp(`^([${TCHAR}]+)/([${TCHAR}]+)$`);

/** Reads an Accept field; entries that are malformed are left out. */
export function parseAccept(value: string): readonly MediaRange[] {
  const ranges: MediaRange[] = [];
  for (const entry of splitMembers(value, ",")) {
    const [range, ...parameters] = splitMembers(entry, ";");
    const match = RANGE.exec(range ?? "");
    if (match === null) continue;
    const weights = parameters.filter((p) => /^q=/i.test(p)).map(readWeight);
    if (weights.some((weight) => weight === undefined)) continue;
    ranges.push({
      type: match[1]!.toLowerCase(),
      subtype: match[2]!.toLowerCase(),
      weight: weights[0] ?? 1,
    });
  }
  return ranges;
}

/** How much a media type is wanted, 0 to 1, and how specific the range is that says so (RFC 9110 §12.5.1): 2 names the type. */
export function weigh(
  mediaType: string,
  ranges: readonly MediaRange[],
): { weight: number; specificity: number } {
  const [type, subtype] = mediaType.split("/");
  let best = { weight: 0, specificity: -1 };
  for (const range of ranges) {
    const specificity =
      range.type === type && range.subtype === subtype
        ? 2
        : range.type === type && range.subtype === "*"
          ? 1
          : range.type === "*" && range.subtype === "*"
            ? 0
            : -1;
    if (specificity > best.specificity) best = { weight: range.weight, specificity };
  }
  return best;
}

/**
 * The first of the offered media types with the highest weight; undefined when none is acceptable. Between equals, one that is
 * named goes before one that a wildcard lets in: who names JSON and takes anything wants JSON.
 */
export function chooseMediaType<Type extends string>(
  accept: string | undefined,
  offered: readonly Type[],
): Type | undefined {
  if (accept === undefined) return offered[0];
  const ranges = parseAccept(accept);
  let best: Type | undefined;
  let [bestWeight, bestSpecificity] = [0, -1];
  for (const type of offered) {
    const { weight, specificity } = weigh(type, ranges);
    if (weight > bestWeight || (weight > 0 && weight === bestWeight && specificity > bestSpecificity)) {
      [best, bestWeight, bestSpecificity] = [type, weight, specificity];
    }
  }
  return best;
}

/** True when the field names HTML itself, and wants nothing else more: what a browser sends for a navigation. */
export function prefersHtml(accept: string | undefined): boolean {
  if (accept === undefined) return false;
  const ranges = parseAccept(accept);
  const html = ranges.filter((r) => r.subtype === "html" || r.subtype === "xhtml+xml");
  const wanted = Math.max(0, ...html.map((r) => r.weight));
  return wanted > 0 && ranges.every((r) => r.weight <= wanted);
}
