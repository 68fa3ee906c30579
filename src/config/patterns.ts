import picomatch from "picomatch";
import { isFingerprinted } from "../core/rules/fingerprint.js";
import type { FileRule } from "../core/rules/rules.js";
import { foldName, type WithheldPattern } from "../core/rules/withheld.js";
import type { FilesConfig } from "./schema-files.js";

/**
 * Compiles a file pattern of the configuration. Without a slash it means a name, wherever it stands; with one it is a path
 * from the mount's folder. Case and Unicode form are folded on both sides.
 */
export function compilePattern(pattern: string): (foldedPath: string) => boolean {
  const anchored = foldName(pattern)
    .replace(/^\.?\//, "")
    .replace(/\/+$/, "");
  const matches = picomatch(anchored, { dot: true, nocase: true });
  if (pattern.replace(/\/+$/, "").includes("/")) return (path) => matches(path);
  return (path) => matches(path.slice(path.lastIndexOf("/") + 1));
}

export function compileWithheldPattern(pattern: string, where: string): WithheldPattern {
  return { label: `the pattern ${JSON.stringify(pattern)} of ${where}`, matches: compilePattern(pattern) };
}

/** Compiles the files of a rule: a pattern, several, or the names that bundlers made. */
export function compileFileRule(files: FilesConfig, label: string): FileRule {
  const tests = [files].flat().map((one) => {
    if (one === "fingerprinted") return (_folded: string, path: string) => isFingerprinted(path);
    const matches = compilePattern(one);
    return (folded: string) => matches(folded);
  });
  const shown = [files].flat().join(", ");
  return {
    label: `${label} (${shown})`,
    matches: (folded, path) => tests.some((test) => test(folded, path)),
  };
}

/** Compiles the patterns of what listings leave out: by name or by path, themselves or a folder above them. */
export function compileUnlisted(
  patterns: readonly string[],
  label: string,
): (path: string) => string | undefined {
  const tests = patterns.map((pattern) => ({ pattern, matches: compilePattern(pattern) }));
  if (tests.length === 0) return () => undefined;
  return (path) => {
    const folded = foldName(path);
    const hit = tests.find(({ matches }) => matches(folded));
    return hit && `the pattern ${JSON.stringify(hit.pattern)} in ${label}`;
  };
}
