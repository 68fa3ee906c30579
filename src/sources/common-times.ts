import type { BigIntStats } from "node:fs";
import { lstat, opendir, stat } from "node:fs/promises";
import { join } from "node:path";
import type { Store } from "../core/memory/store.js";

/** How many files of a folder are looked at. */
const LOOKED_AT = 16;

/** A time that is older than its own setting by more than this was set by a tool, in nanoseconds. */
const SET_NS = 2_000_000_000n;

export const COMMON_TIMES = {
  name: "times that a folder's files share",
  bound: 4096,
  unit: "entries",
  proof: "the folder's own inode and times",
} as const;

/** What is known about a folder. */
export interface CommonTime {
  readonly version: string;
  /** The time that most of its files have, in nanoseconds since the epoch; undefined without files. */
  readonly timeNs: bigint | undefined;
}

/**
 * Tells times that a tool set from times at which something was written. Reproducible builds, images and packages give every file
 * one time, and the next release the same: it says nothing of what is in a file.
 */
export class CommonTimes {
  readonly #root: string;
  readonly #known: Store<string, CommonTime>;

  constructor(root: string, known: Store<string, CommonTime>) {
    this.#root = root;
    this.#known = known;
  }

  /** True for a file whose time is a whole second, was set later than it says, and is that of most files beside it. */
  async has(path: string, { mtimeNs, ctimeNs }: Pick<BigIntStats, "mtimeNs" | "ctimeNs">): Promise<boolean> {
    if (mtimeNs % 1_000_000_000n !== 0n || ctimeNs - mtimeNs < SET_NS) return false;
    const folder = path.slice(0, Math.max(0, path.lastIndexOf("/")));
    const full = join(this.#root, folder);
    try {
      const { dev, ino, mtimeNs: changedNs } = await stat(full, { bigint: true });
      const version = `${dev}-${ino}-${changedNs}`;
      let known = this.#known.get(folder);
      if (known?.version !== version) {
        known = { version, timeNs: await findCommonTime(full) };
        this.#known.set(folder, known);
      }
      return known.timeNs === mtimeNs;
    } catch {
      // Who cannot be looked at beside it cannot vouch for it.
      return true;
    }
  }
}

async function findCommonTime(folder: string): Promise<bigint | undefined> {
  const counts = new Map<bigint, number>();
  let looked = 0;
  for await (const entry of await opendir(folder)) {
    if (!entry.isFile()) continue;
    const { mtimeNs } = await lstat(join(folder, entry.name), { bigint: true });
    counts.set(mtimeNs, (counts.get(mtimeNs) ?? 0) + 1);
    if (++looked === LOOKED_AT) break;
  }
  return [...counts].find(([, count]) => count * 2 > looked)?.[0];
}
