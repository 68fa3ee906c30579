import { foldName } from "../text/fold-name.js";

/** A withholding pattern of the configuration, compiled: it tells whether a path (of a file or of a directory above it) is meant. */
export interface WithheldPattern {
  /** Where it is written and what it says, for explanations. */
  readonly label: string;
  readonly covers: (path: string) => boolean;
}

/** What a visitor never gets. */
export interface Withheld {
  /** The rule that withholds a path, in words; undefined for what may be served. */
  readonly by: (path: string) => string | undefined;
  /** The patterns in force, as they are written. */
  readonly patterns: readonly string[];
}

const DOT_NAME = "a name with a leading dot";

/**
 * Makes the test for what is never served: dot-names (RFC 8615 §3 keeps `.well-known` at the top), and what a pattern
 * matches, itself or a directory above it. Case and Unicode form are folded, so that a file system which ignores them
 * cannot be used to get around a pattern.
 */
export function compileWithheld(patterns: readonly WithheldPattern[]): (path: string) => string | undefined {
  return (path) => {
    if (hasDotName(path)) return DOT_NAME;
    if (patterns.length === 0) return undefined;
    const folded = foldName(path);
    return patterns.find((pattern) => pattern.covers(folded))?.label;
  };
}

/** True for a path with a name that is never served, whatever the configuration says. */
export function hasDotName(path: string): boolean {
  if (path.charCodeAt(0) === 0x2e) {
    return !(path === ".well-known" || path.startsWith(".well-known/")) || path.includes("/.");
  }
  return path.includes("/.");
}
