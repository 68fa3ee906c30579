import type { Store } from "../memory/store.js";
import { CODING_ENDINGS } from "../rules/codings.js";
import { type Mount, selectRules, withheldName } from "../rules/mount.js";
import type { Failed, OpenedDirectory, SourceEntry } from "../source.js";
import { joinPath } from "../text/path.js";
import type { Pause } from "./order.js";

/** What is known about a directory while its own time stands: its names, and the orders that depend on names alone. */
export interface KnownDirectory {
  readonly version: string | undefined;
  readonly real: string;
  readonly entries: readonly SourceEntry[];
  readonly orders: Map<string, Uint32Array>;
}

export type KnownDirectories = Store<string, KnownDirectory>;

/** A directory of a mount. */
export interface ListedDirectory {
  readonly mount: Mount;
  /** The path inside the mount. */
  readonly path: string;
  /** The path where it is when the links on it are followed. */
  readonly real: string;
  readonly directory: OpenedDirectory;
}

export const STEP = 2048;

/** The names that are listed of a directory, from memory or read now. */
export async function recallDirectory(
  known: KnownDirectories,
  { mount, path, real, directory }: ListedDirectory,
  pause: Pause,
): Promise<KnownDirectory | Failed> {
  const { version } = directory;
  const key = `${mount.at}\0${path}`;
  const before = known.use(key);
  if (before !== undefined && version !== undefined && before.version === version && before.real === real)
    return before;

  const all = await directory.list();
  if ("kind" in all) return all;
  const entries: SourceEntry[] = [];
  const isListed = makeFilter(mount, { path, real }, all);
  for (const [index, entry] of all.entries()) {
    if (index % STEP === STEP - 1) await pause();
    if (!isListed(entry.name)) continue;
    entries.push(entry);
  }
  const made: KnownDirectory = { version, real, entries, orders: new Map() };
  if (version !== undefined) known.set(key, made, entries.length + 1);
  return made;
}

// Withheld names are never told, by whatever path they are reached; those that are not listed and prebuilt codings are not listed.
function makeFilter(
  mount: Mount,
  { path, real }: Pick<ListedDirectory, "path" | "real">,
  all: readonly SourceEntry[],
): (name: string) => boolean {
  const { notListed, codings } = selectRules(mount, path);
  const names = new Set(codings.prebuilt.length === 0 ? [] : all.map(({ name }) => name));
  return (name) => {
    // A name that is not UTF-8 comes with a replacement character, and no address leads to it.
    if (name.includes("\ufffd")) return false;
    const full = joinPath(path, name);
    if (withheldName(mount, full, joinPath(real, name)) !== undefined) return false;
    if (notListed.by(full) !== undefined) return false;
    return !codings.prebuilt.some((coding) => {
      const ending = CODING_ENDINGS[coding];
      return name.endsWith(ending) && names.has(name.slice(0, -ending.length));
    });
  };
}
