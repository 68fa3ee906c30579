import type { Position } from "../shapes.js";
import type { Subject } from "./subject.js";

/** The places that explanations name: `mounts[0].areas["/records"]`, `moved["/birds/"]`, `site`. */
const PLACE =
  /(?:mounts\[\d+\]|moved\[|gone\[|site\b)(?:\["(?:[^"\\]|\\.)*"\]|\[\d+\]|"(?:[^"\\]|\\.)*"\]|\d+\]|\.[A-Za-z]\w*)*/;

/**
 * Where the rule stands that a field or a rule is said to come from: `because` names it as `mounts[0].caching[1] (*.html)`, or as the
 * name of a rule and the place where it is said: `validators: mounts[0]`, `.css in mediaTypes of mounts[0]`.
 */
export function findWritten(
  because: string,
  { locate }: Pick<Subject, "locate">,
  rule?: string,
): Position | undefined {
  const place = PLACE.exec(because);
  if (place === null) return undefined;
  const path = readKeyPath(place[0]);
  const named = /(\w+)(?:: | of )$/.exec(because.slice(0, place.index))?.[1];
  const last = rule ?? named;
  return (last === undefined ? undefined : locate([...path, last])) ?? locate(path);
}

/** A key path as written in messages: `a[0].b["c"]`. What is said for the whole site stands at the top. */
function readKeyPath(text: string): PropertyKey[] {
  const keys = [...text.matchAll(/\["((?:[^"\\]|\\.)*)"\]|\[(\d+)\]|([A-Za-z_]\w*)/g)].map(
    ([, quoted, index, name]): PropertyKey =>
      quoted !== undefined
        ? (JSON.parse(`"${quoted}"`) as string)
        : index !== undefined
          ? Number(index)
          : name!,
  );
  return keys[0] === "site" ? keys.slice(1) : keys;
}
