import { makePattern } from "../rules/pattern.js";
import { foldName } from "../text/fold-name.js";
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
 * comment. A sentence's part for one that cannot be read, such as `it is no JSON`.
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
  return patterns.length > PATTERNS_AT_MOST
    ? { problem: `it has more than ${PATTERNS_AT_MOST} patterns` }
    : { name, has: namesOf(lines), folders: foldersOf(lines) };
}

/** Each name is held against all of them. */
const PATTERNS_AT_MOST = 1000;

const isPattern = (line: string): boolean => /[*?[\]{}()\\]/.test(line);

const foldersOf = (paths: readonly string[]): ReadonlySet<string> =>
  new Set(paths.map((path) => path.replace(/^\.?\//, "").replace(/(?:^|\/)[^/]*$/, "")));

/** The test for paths and patterns, as they are written. */
export function namesOf(written: readonly string[]): (path: string) => boolean {
  const paths = new Set<string>();
  // Without a slash it means a name, in any folder.
  const names = new Set<string>();
  for (const line of written)
    if (!isPattern(line)) (line.includes("/") ? paths : names).add(line.replace(/^\.?\//, ""));
  const patterns = written
    .filter(isPattern)
    .map((line) => makePattern(foldName(line).replace(/^\.?\//, ""), !line.includes("/")));
  return (path) => {
    if (paths.has(path) || names.has(path.slice(path.lastIndexOf("/") + 1))) return true;
    const folded = patterns.length === 0 ? "" : foldName(path);
    return patterns.some(({ matches }) => matches(folded));
  };
}
