import { splitMembers } from "./grammar.js";

/** A range as it is asked for (RFC 9110 §14.1.2). */
export type RangeSpec = { from: "start"; first: number; last?: number } | { from: "end"; length: number };

/** Reads a Range field in bytes; undefined for another unit or a malformed set, which are ignored (RFC 9110 §14.2). */
export function parseRange(value: string): readonly RangeSpec[] | undefined {
  const match = /^bytes=(.*)$/i.exec(value.trim());
  if (match === null) return undefined;
  const specs: RangeSpec[] = [];
  for (const text of splitMembers(match[1]!, ",")) {
    if (text === "") continue;
    const positions = /^(\d*)-(\d*)$/.exec(text);
    if (positions === null || text === "-") return undefined;
    const [, first, last] = positions as unknown as [string, string, string];
    if (first === "") specs.push({ from: "end", length: Number(last) });
    else if (last === "") specs.push({ from: "start", first: Number(first) });
    else if (Number(last) < Number(first)) return undefined;
    else specs.push({ from: "start", first: Number(first), last: Number(last) });
  }
  return specs.length === 0 ? undefined : specs;
}
