import type { Position } from "../shapes.js";
import type { Subject } from "./subject.js";

/**
 * Where a key of the configuration stands in its text; undefined for what is not written there. `key` is as messages name it. `orAbove`
 * takes what encloses a key that is not there.
 */
export function findWritten(
  key: string | undefined,
  { locate }: Pick<Subject, "locate">,
  orAbove = false,
): Position | undefined {
  if (key === undefined) return undefined;
  const path = readKeyPath(key);
  for (let length = path.length; length > 0; length--) {
    const found = locate(path.slice(0, length));
    if (found !== undefined || !orAbove) return found;
  }
  return undefined;
}

/** A key path as written in messages: `a[0].b["c"]`. */
function readKeyPath(text: string): PropertyKey[] {
  return [...text.matchAll(/\["((?:[^"\\]|\\.)*)"\]|\[(\d+)\]|([A-Za-z_]\w*)/g)].map(
    ([, quoted, index, name]): PropertyKey =>
      quoted !== undefined
        ? (JSON.parse(`"${quoted}"`) as string)
        : index !== undefined
          ? Number(index)
          : name!,
  );
}
