import type { Fields } from "../fields/fields.js";
import { foldName } from "../text/fold-name.js";

/** A rule for some files of a mount. */
export interface FileRule {
  /** Where it is written, for explanations: "mounts[0].caching[1] (*.css)". */
  readonly label: string;
  /** The key of the configuration: `mounts[0].caching[1]`; undefined for the rule of a kind. */
  readonly rule: string | undefined;
  /** The files it is for, as they are written. */
  readonly files: string;
  /** True where it is for fingerprinted names. */
  readonly asksNames: boolean;
  /** Takes the path inside the mount with its names folded, and whether the name is fingerprinted. */
  readonly matches: (foldedPath: string, isFingerprinted: boolean) => boolean;
}

/** The rules for some files at a place of a mount. */
interface AllFileRules {
  readonly caching: readonly CachingRule[];
  readonly headers: readonly HeaderRule[];
  readonly downloads: readonly DownloadRule[];
}

/** The rules that are for fingerprinted names, so that somebody must know which those are. */
export function rulesForNames({ caching, headers, downloads }: AllFileRules): readonly FileRule[] {
  return [...caching, ...headers, ...downloads].filter(({ asksNames }) => asksNames);
}

/** How long a copy of a file is fresh: the fields that say so. */
export interface CachingRule extends FileRule {
  readonly fields: Fields;
  /** The file must not be changed on its way, so neither is it compressed on the fly. */
  readonly noTransform: boolean;
  /** How long the longest-lived copy is fresh, in seconds. */
  readonly lifetimeSeconds: number;
}

/** Fields of the developer's own. */
export interface HeaderRule extends FileRule {
  readonly fields: Fields;
}

/** Files that the browser saves; `name` is what it saves them as, when not their own name. */
export interface DownloadRule extends FileRule {
  readonly name: string | undefined;
}

/** The first of the rules that is for a path. */
export function findRule<Rule extends FileRule>(
  rules: readonly Rule[],
  path: string,
  isFingerprinted: boolean,
): Rule | undefined {
  const folded = foldName(path);
  return rules.find((rule) => rule.matches(folded, isFingerprinted));
}

/** All of the rules that are for a path, in their order. */
export function filterRules<Rule extends FileRule>(
  rules: readonly Rule[],
  path: string,
  isFingerprinted: boolean,
): readonly Rule[] {
  const folded = foldName(path);
  return rules.filter((rule) => rule.matches(folded, isFingerprinted));
}
