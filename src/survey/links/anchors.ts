import type { PageElement } from "../../reading/pages/element.js";

/** The names in a page that a fragment can mean (HTML §7.4.6.3), as digests of 32 bits: two that collide hide one broken fragment. */
export type Anchors = Int32Array;

/** Collects the anchors of a page, one element after the other. */
export class AnchorReader {
  readonly #digests: number[] = [];

  look({ name, attributes }: PageElement): void {
    const id = attributes.get("id");
    if (id !== undefined) this.#digests.push(digest(id));
    const named = name === "a" ? attributes.get("name") : undefined;
    if (named !== undefined) this.#digests.push(digest(named));
  }

  list(): Anchors {
    return Int32Array.from(this.#digests).sort();
  }
}

/** True where a fragment leads to a place in a page, or to something that only its scripts can know. */
export function leadsTo(anchors: Anchors, fragment: string): boolean {
  // HTML §7.4.6.3: the top; a directive; what applications keep their state in; places in other formats.
  if (fragment === "" || /^(?:top$|:~:|[!/?]|[^=]*=|L?\d+-L?\d+$)/i.test(fragment)) return true;
  return has(anchors, digest(fragment)) || has(anchors, digest(decode(fragment)));
}

function has(anchors: Anchors, wanted: number): boolean {
  let [low, high] = [0, anchors.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (anchors[middle]! < wanted) low = middle + 1;
    else high = middle;
  }
  return anchors[low] === wanted;
}

// FNV-1a.
function digest(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return hash | 0;
}

function decode(fragment: string): string {
  try {
    return decodeURIComponent(fragment);
  } catch {
    return fragment;
  }
}
