import { type BigIntStats, lstatSync, realpathSync, statSync } from "node:fs";
import type { Look } from "../core/source.js";
import { versionOf } from "./folder-directory.js";
import { isSame, type KnownPath } from "./known-path.js";
import { currentTurn } from "./turn.js";

const ASKED = { bigint: true, throwIfNoEntry: false } as const;

/** Looks once in a turn of the event loop, however many answers depend on it. */
abstract class SharedLook implements Look {
  abstract readonly changedMs: number;
  #turn = -1;
  #held = false;

  holds(): boolean {
    const turn = currentTurn();
    if (turn !== this.#turn) {
      this.#turn = turn;
      this.#held = this.#tryLook();
    }
    return this.#held;
  }

  /** Looks. May throw what the file system says: then it does not hold. */
  protected abstract look(): boolean;

  #tryLook(): boolean {
    try {
      return this.look();
    } catch {
      return false;
    }
  }
}

/** That a path of the file system leads where it did. */
export class PlaceLook extends SharedLook {
  readonly changedMs = Number.NEGATIVE_INFINITY;
  readonly path: string;
  readonly real: string;

  constructor(path: string, real: string) {
    super();
    this.path = path;
    this.real = real;
  }

  protected look(): boolean {
    return realpathSync.native(this.path) === this.real;
  }
}

/** That a path has what is known about it, at the same place: a file unchanged; of a directory what is in it is another matter. */
export class KnownLook extends SharedLook {
  readonly changedMs: number;
  readonly #full: string;
  readonly #known: KnownPath;
  readonly #place: PlaceLook;

  /** `place` tells where it is: its own path, where links lead to it, and that of its folder otherwise. */
  constructor(full: string, known: KnownPath, place: PlaceLook) {
    super();
    this.#full = full;
    this.#known = known;
    this.#place = place;
    const { modifiedNs, changedNs } = known.metadata;
    const youngest = Math.max(Number(modifiedNs / 1_000_000n), Number(changedNs / 1_000_000n));
    this.changedMs = known.isFile ? youngest : Number.NEGATIVE_INFINITY;
  }

  protected look(): boolean {
    const isItself = this.#place.path === this.#full;
    // A link that took the place of a file would be followed.
    const stats = (isItself ? statSync : lstatSync)(this.#full, ASKED);
    if (stats === undefined) return false;
    const isTheSame = this.#known.isFile
      ? stats.isFile() && isSame(this.#known, stats)
      : isSameDirectory(this.#known, stats);
    return isTheSame && this.#place.holds();
  }
}

function isSameDirectory(known: KnownPath, { ino, dev, mode, uid, gid }: BigIntStats): boolean {
  return (
    known.inode === ino &&
    known.device === dev &&
    known.mode === mode &&
    known.uid === uid &&
    known.gid === gid
  );
}

/** That a directory has the names that it had. */
export class NamesLook extends SharedLook {
  readonly changedMs = Number.NEGATIVE_INFINITY;
  readonly #full: string;
  readonly #version: string;

  constructor(full: string, version: string) {
    super();
    this.#full = full;
    this.#version = version;
  }

  protected look(): boolean {
    const stats = statSync(this.#full, ASKED);
    return stats !== undefined && versionOf(stats) === this.#version;
  }
}

/** That a path has nothing. */
export class AbsentLook extends SharedLook {
  readonly changedMs = Number.NEGATIVE_INFINITY;
  readonly #full: string;

  constructor(full: string) {
    super();
    this.#full = full;
  }

  protected look(): boolean {
    try {
      return statSync(this.#full, ASKED) === undefined;
    } catch (error) {
      // A file stands where the path has a directory.
      return (error as NodeJS.ErrnoException).code === "ENOTDIR";
    }
  }
}

/** That several looks hold. */
export class AllLooks implements Look {
  readonly #all: readonly Look[];

  constructor(all: readonly Look[]) {
    this.#all = all;
  }

  get changedMs(): number {
    return Math.max(...this.#all.map(({ changedMs }) => changedMs));
  }

  holds(): boolean {
    return this.#all.every((one) => one.holds());
  }
}
