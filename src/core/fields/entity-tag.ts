/** An entity tag (RFC 9110 §8.8.3): the opaque part with its quotes, and whether it is weak. */
export interface EntityTag {
  readonly weak: boolean;
  readonly opaque: string;
}

// RFC 9110 §8.8.3: etagc is %x21 / %x23-7E / obs-text; a comma or a blank inside the quotes is part of the tag or not one.
const TAG = /(W\/)?("[\x21\x23-\x7e\x80-\uffff]*")/y;
const SEPARATOR = /[ \t]*(?:,[ \t]*)*/y;

/** Reads a tag list, or `*` (RFC 9110 §13.1.1, §13.1.2). A malformed field gives the tags before the fault. */
export function parseTagList(value: string): "*" | readonly EntityTag[] {
  if (value.trim() === "*") return "*";
  const tags: EntityTag[] = [];
  let at = skip(value, 0);
  while (at < value.length) {
    TAG.lastIndex = at;
    const match = TAG.exec(value);
    if (match === null) break;
    tags.push({ weak: match[1] !== undefined, opaque: match[2]! });
    const next = skip(value, TAG.lastIndex);
    if (next < value.length && !value.slice(TAG.lastIndex, next).includes(",")) break;
    at = next;
  }
  return tags;
}

function skip(value: string, from: number): number {
  SEPARATOR.lastIndex = from;
  SEPARATOR.exec(value);
  return SEPARATOR.lastIndex;
}

/** Strong comparison, RFC 9110 §8.8.3.2: equal, and neither weak. */
export function matchesStrongly(a: EntityTag, b: EntityTag): boolean {
  return !a.weak && !b.weak && a.opaque === b.opaque;
}

/** Weak comparison, RFC 9110 §8.8.3.2: the opaque parts are equal. */
export function matchesWeakly(a: EntityTag, b: EntityTag): boolean {
  return a.opaque === b.opaque;
}
