import type { FileSource } from "../source.js";
import type { EarlierReleases } from "./earlier.js";
import type { Names } from "./names.js";
import type { PrefixTree } from "./prefix-tree.js";
import type { Rules } from "./rules.js";

/** A source of files under a URL prefix, with its rules by path inside it. */
export interface Mount {
  /** The prefix as configured, decoded, without a slash at its end; `""` is the root. */
  readonly at: string;
  readonly source: FileSource;
  /** Where a file is looked for whose name has a fingerprint, and that the source lacks. */
  readonly earlier?: EarlierReleases;
  /** What is known of its files' names; left out where nobody asks. */
  readonly names?: Names;
  /** The rules of each area, the mount's own first. */
  readonly areas: PrefixTree<Rules>;
}

/** A mount, and the rest of the path inside it. */
export interface MountedPath {
  readonly mount: Mount;
  readonly path: string;
}

/** The rules of the nearest enclosing area. */
export function selectRules(mount: Mount, path: string): Rules {
  return mount.areas.find(path)!.value;
}

/**
 * The rule that keeps a name from visitors, in words: by its path, or by where it really lies, as links make two of them. Undefined when it
 * may be served.
 */
export function withheldName(mount: Mount, path: string, real: string): string | undefined {
  const by = withheldIn(mount, path);
  if (by !== undefined || real === path) return by;
  const byReal = withheldIn(mount, real);
  return byReal === undefined ? undefined : `it leads to ${real}; ${byReal}`;
}

/** The rule that keeps a path of a mount from visitors, in words; undefined when it may be served. */
export function withheldIn(mount: Mount, path: string): string | undefined {
  return selectRules(mount, path).withheld.by(path);
}
