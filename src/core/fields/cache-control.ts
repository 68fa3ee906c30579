import { TCHAR } from "./grammar.js";

/** The directives of a Cache-Control field (RFC 9111 §5.2): names in lower case; `true` for one without a value. */
export type Directives = ReadonlyMap<string, string | true>;

const DIRECTIVE = new RegExp(
  `[ \\t]*([${TCHAR}]+)(?:=(?:"((?:[^"\\\\]|\\\\.)*)"|([^\\s,;"]*)))?[ \\t]*(?:,|$)`,
  "y",
);

/** Reads a Cache-Control field. Where it is malformed, `malformed` is the text from there on. */
export function parseCacheControl(value: string): {
  directives: Directives;
  repeated: string[];
  malformed: string | undefined;
} {
  const directives = new Map<string, string | true>();
  const repeated: string[] = [];
  let at = 0;
  while (at < value.length) {
    DIRECTIVE.lastIndex = at;
    const match = DIRECTIVE.exec(value);
    if (match === null) return { directives, repeated, malformed: value.slice(at).trim() };
    const name = match[1]!.toLowerCase();
    // RFC 9111 §4.2.1: of a directive that stands twice, the first occurrence is used.
    if (directives.has(name)) repeated.push(name);
    else directives.set(name, match[2] ?? match[3] ?? true);
    at = DIRECTIVE.lastIndex;
  }
  return { directives, repeated, malformed: undefined };
}
