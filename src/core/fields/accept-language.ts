import { readWeight, splitMembers } from "./grammar.js";

/** One entry of an Accept-Language field: a language range in lower case, and its weight, 0 to 1 (RFC 9110 §12.5.4, §12.4.2). */
export interface LanguageRange {
  readonly range: string;
  readonly weight: number;
}

/** RFC 4647 §2.1. */
const RANGE = /^(?:\*|[a-z]{1,8}(?:-[a-z0-9]{1,8})*)$/i;

/** Reads an Accept-Language field, the most wanted first; entries that are malformed or not wanted (`q=0`) are left out. */
export function parseAcceptLanguage(value: string): LanguageRange[] {
  const ranges: LanguageRange[] = [];
  for (const entry of splitMembers(value, ",")) {
    const [range = "", ...parameters] = splitMembers(entry, ";");
    const weight = parameters.length === 0 ? 1 : readWeight(parameters[0]!);
    if (!RANGE.test(range) || parameters.length > 1 || !weight) continue;
    ranges.push({ range: range.toLowerCase(), weight });
  }
  return ranges.sort((a, b) => b.weight - a.weight);
}

/**
 * The tags that a range stands for in a lookup, the most exact first (RFC 4647 §3.4): `de-CH-1996` for itself, `de-CH` and `de`. None for `*`,
 * which the lookup passes over.
 */
export function fallBack(range: string): string[] {
  if (range === "*") return [];
  const tags: string[] = [];
  const parts = range.split("-");
  while (parts.length > 0) {
    tags.push(parts.join("-"));
    parts.pop();
    // A letter alone begins an extension, and means nothing without it.
    if (parts.at(-1)?.length === 1) parts.pop();
  }
  return tags;
}
