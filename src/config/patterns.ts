import type { FileRule } from "../core/rules/file-rules.js";
import { makePattern, type Pattern } from "../core/rules/pattern.js";
import { foldName } from "../core/text/fold-name.js";
import { keyAt, type Origin } from "../core/text/origin.js";

/**
 * Compiles a file pattern of the configuration. Without a slash it means a name, wherever it stands; with one it is a path
 * from the mount's folder. Case and Unicode form are folded on both sides.
 */
export function compilePattern(pattern: string): Pattern {
  const written = pattern.replace(/\/+$/, "");
  return makePattern(foldName(written).replace(/^\.?\//, ""), !written.includes("/"));
}

/** Which files a rule is for, as written: a pattern, several, or the word `fingerprinted`. */
export type Files = string | readonly string[];

/** Compiles the files of a rule, which stands under a key at a place: a pattern, several, or the names that bundlers made. */
export function compileFileRule(files: Files, where: Origin, key: string): FileRule {
  const tests = [files].flat().map((one) => {
    if (one === "fingerprinted") return (_folded: string, isFingerprinted: boolean) => isFingerprinted;
    return compilePattern(one).matches;
  });
  const shown = [files].flat().join(", ");
  return {
    label: `${where.words}.${key} (${shown})`,
    rule: keyAt(where, key),
    files: shown,
    asksNames: [files].flat().includes("fingerprinted"),
    matches: (folded, isFingerprinted) => tests.some((test) => test(folded, isFingerprinted)),
  };
}
