import { makePattern } from "../../core/rules/pattern.js";
import { foldName } from "../../core/text/fold-name.js";
import { readManifest } from "./manifest.js";

/** The names that a list says are fingerprinted. */
export interface NameList {
  /** What people call it: the file's name. */
  readonly name: string;
  /** Takes a path inside the mount. */
  readonly has: (path: string) => boolean;
  /** The folders of the files that it names one by one. */
  readonly folders: ReadonlySet<string>;
}

/**
 * Reads a list of fingerprinted names: the manifest that Vite writes, or plain text with a path or a pattern a line, where `#` begins a
 * comment. Gives a clause about what is wrong with a list that cannot be used, such as `it is not JSON`.
 */
export function readNameList(name: string, text: string): NameList | { readonly problem: string } {
  if (/^\s*\{/.test(text)) {
    const names = readManifest(text);
    return "problem" in names
      ? names
      : { name, has: (path) => names.has(path), folders: foldersOf([...names]) };
  }
  const lines = text
    .replace(/^\ufeff/, "")
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== "" && !line.startsWith("#"));
  const patterns = lines.filter(isPattern);
  if (patterns.length > PATTERNS_AT_MOST) return { problem: `it has more than ${PATTERNS_AT_MOST} patterns` };
  return { name, has: namesOf(lines), folders: foldersOf(lines.filter((line) => !isPattern(line))) };
}

/** Each name is held against all of them. */
const PATTERNS_AT_MOST = 1000;

// Other signs of patterns mean nothing by themselves.
const isPattern = (line: string): boolean => /[*?[{\\]|[@+]\(/.test(line);

const foldersOf = (paths: readonly string[]): ReadonlySet<string> =>
  new Set(paths.map((path) => path.replace(/^\.?\//, "").replace(/(?:^|\/)[^/]*$/, "")));

/** The test for paths and patterns, as they are written. */
export function namesOf(written: readonly string[]): (path: string) => boolean {
  const paths = new Set<string>();
  // Without a slash it means a name, in any folder.
  const names = new Set<string>();
  // A name that a build made may look like a pattern, and means itself, too.
  for (const line of written) (line.includes("/") ? paths : names).add(line.replace(/^\.?\//, ""));
  const patterns = written
    .filter(isPattern)
    .map((line) => makePattern(foldName(line).replace(/^\.?\//, ""), !line.includes("/")));
  return (path) => {
    if (paths.has(path) || names.has(path.slice(path.lastIndexOf("/") + 1))) return true;
    const folded = patterns.length === 0 ? "" : foldName(path);
    return patterns.some(({ matches }) => matches(folded));
  };
}
