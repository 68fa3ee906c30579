import picomatch from "picomatch";
import { foldName, type WithheldPattern } from "../core/withheld.js";

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
