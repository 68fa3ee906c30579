import { type BigIntStats, constants, fstatSync, open, openSync } from "node:fs";
import { Memory } from "../core/memory/memory.js";
import type { Store } from "../core/memory/store.js";
import type { Diagnosis, FileSource, Found, Look } from "../core/source.js";
import { COMMON_TIMES, type CommonTime, CommonTimes } from "./common-times.js";
import { diagnosePath } from "./diagnose.js";
import { FolderDirectory } from "./folder-directory.js";
import { closeQuietly, FolderFile } from "./folder-file.js";
import { FolderLooks, openPlaces, type Places } from "./folder-looks.js";
import { isSame, type KnownPath } from "./known-path.js";
import {
  type LinkPolicy,
  type Location,
  leadsThere,
  locate,
  locateAtOnce,
  type Opened,
  pathOfDescriptor,
} from "./links.js";
import { explainError, missing } from "./open-errors.js";
import { isPortableName } from "./portable-name.js";

export interface FolderOptions {
  /** What people call the folder in messages; the path itself when not given. */
  readonly name?: string;
  /** Which symbolic links are followed: those whose target stays in the folder (default), none, or all. */
  readonly links?: LinkPolicy;
  /** True when a file that was opened a moment ago can be opened again without waiting (default false). */
  readonly local?: boolean;
  /** Where what is remembered is counted; its own memory when not given. */
  readonly memory?: Memory;
  /** What is known about paths, from a folder that this one took the place of. */
  readonly stores?: FolderStores;
  /** The link that led to the folder; it counts only while it still leads there. */
  readonly link?: string;
  /** The platform whose file names apply; `process.platform` when not given. */
  readonly platform?: NodeJS.Platform;
}

// Never waits for the other end of a pipe, never makes a terminal the process's own. Windows has neither flag.
const OPEN_FLAGS = constants.O_RDONLY | (constants.O_NONBLOCK ?? 0) | (constants.O_NOCTTY ?? 0);

/** For how long the name of a file that was opened is taken to be in the system's memory, in milliseconds. */
const HOT_MS = 1000;

/** For how long a path is taken to lie where it did, in milliseconds, where the system does not tell of an open file. */
const LOCATED_MS = 1000;

/** How often a name is opened again that was exchanged while it was looked at: a deployment goes on. */
const TRIES = 16;

/** How many files' locations are remembered of a folder. */
const LOCATIONS = {
  name: "where paths lie",
  bound: 16_384,
  unit: "entries",
  proof:
    "the path opens the same inode, with the same size and times, at the same place (each second where Linux does not tell)",
} as const;

/**
 * A folder on disk, read live. A name is opened first and asked about afterwards, through its descriptor, so nothing can be
 * exchanged between the check and the use. What may wait for a disk is done off the main thread: opening and reading. What
 * cannot is done in place: asking an open descriptor, closing it, and on a local file system opening and reading again what
 * was a moment ago (measured in docs/performance.md).
 */
class FolderSource implements FileSource {
  readonly name: string;
  readonly #root: string;
  readonly #links: LinkPolicy;
  readonly #local: boolean;
  readonly #windows: boolean;
  readonly #known: Store<string, KnownPath>;
  readonly #commonTimes: CommonTimes;
  readonly #looks: FolderLooks;

  constructor(root: string, options: FolderOptions) {
    const { name = root, links = "inside", local = false, platform = process.platform } = options;
    this.name = name;
    this.#root = root;
    this.#links = links;
    this.#local = local;
    this.#windows = platform === "win32";
    const { known, commonTimes, places } = options.stores ?? openFolderStores(options.memory ?? new Memory());
    this.#known = known;
    this.#looks = new FolderLooks(root, { known, places, link: options.link });
    this.#commonTimes = new CommonTimes(root, commonTimes);
  }

  open(path: string): Found | Promise<Found> {
    if (this.#windows && !isPortableName(path)) return missing("name-not-portable");
    const full = path === "" ? this.#root : `${this.#root}/${path}`;
    return this.#local && this.#wasOpenedNow(path)
      ? this.#openInPlace(path, full)
      : this.#openAside(path, full, 1);
  }

  openNow(path: string): Found | undefined {
    if (!this.#local || this.#windows) return undefined;
    let descriptor: number;
    try {
      descriptor = openSync(`${this.#root}/${path}`, OPEN_FLAGS);
    } catch {
      return undefined;
    }
    try {
      const stats = fstatSync(descriptor, { bigint: true });
      if (stats.isFile() && locateAtOnce(this.#root, path, descriptor) !== undefined) {
        const metadata = toMetadata(stats, false);
        return { kind: "file", file: new FolderFile(descriptor, metadata, { lastReadMs: 0 }) };
      }
    } catch {
      // Opening it again tells what is wrong.
    }
    closeQuietly(descriptor);
    return undefined;
  }

  look(path: string, found: Found): Look | undefined {
    // Of another machine's files nothing can be told without waiting.
    return this.#local ? this.#looks.lookAt(path, found) : undefined;
  }

  lookInside(path: string, version: string): Look | undefined {
    return this.#local ? this.#looks.lookInside(path, version) : undefined;
  }

  diagnose(path: string): Promise<Diagnosis | undefined> {
    return diagnosePath(this.#root, path);
  }

  #wasOpenedNow(path: string): boolean {
    const entry = this.#known.get(path);
    return entry !== undefined && Date.now() - entry.lastOpenedMs < HOT_MS;
  }

  #openAside(path: string, full: string, attempt: number): Promise<Found> {
    return new Promise<Found>((resolve) => {
      open(full, OPEN_FLAGS, (error, descriptor) => {
        if (error !== null) resolve(explainError(error));
        else resolve(this.#inspect(descriptor, path, full, attempt));
      });
    });
  }

  #openInPlace(path: string, full: string): Found | Promise<Found> {
    let descriptor: number;
    try {
      descriptor = openSync(full, OPEN_FLAGS);
    } catch (error) {
      return explainError(error as NodeJS.ErrnoException);
    }
    return this.#inspect(descriptor, path, full, 1);
  }

  // Owns the descriptor: hands it on in a file, or closes it.
  #inspect(descriptor: number, path: string, full: string, attempt: number): Found | Promise<Found> {
    let stats: BigIntStats;
    try {
      stats = fstatSync(descriptor, { bigint: true });
    } catch (error) {
      // A network file system may have lost the file since.
      closeQuietly(descriptor);
      return explainError(error as NodeJS.ErrnoException);
    }
    if (!stats.isFile() && !stats.isDirectory()) {
      closeQuietly(descriptor);
      return { kind: "special" };
    }
    const entry = this.#known.get(path);
    const opened = { stats, path, full };
    if (entry !== undefined && isSame(entry, stats)) {
      const nowMs = Date.now();
      entry.lastOpenedMs = nowMs;
      if (liesThere(descriptor, entry, nowMs)) return this.#hand(descriptor, opened, entry);
    }
    return this.#verify(descriptor, opened, attempt);
  }

  // Owns the descriptor, too.
  async #verify(descriptor: number, opened: Opened, attempt: number): Promise<Found> {
    const { stats, path, full } = opened;
    const location = locateAtOnce(this.#root, path, descriptor) ?? (await this.#locate(descriptor, opened));
    if (location === undefined) {
      // The name was exchanged or removed in between: what it means now is found out by opening it again.
      closeQuietly(descriptor);
      return attempt < TRIES ? this.#openAside(path, full, attempt + 1) : { kind: "unsettled" };
    }
    const before = this.#known.get(path);
    if (before !== undefined && isSame(before, stats) && location.refused === undefined) {
      // What is known about its bytes stands: they are another matter than where they are.
      if (before.location.real !== location.real) before.look = undefined;
      before.location = location;
      before.locatedMs = Date.now();
      return this.#hand(descriptor, opened, before);
    }
    const entry: KnownPath = {
      locatedMs: Date.now(),
      isFile: stats.isFile(),
      mode: stats.mode,
      uid: stats.uid,
      gid: stats.gid,
      look: undefined,
      device: stats.dev,
      inode: stats.ino,
      location,
      metadata: toMetadata(stats, stats.isFile() && (await this.#commonTimes.has(path, stats))),
      lastReadMs: Number.NEGATIVE_INFINITY,
      lastOpenedMs: Date.now(),
    };
    // A refusal is found out each time: the folder above may be put back, and nothing of the file itself would tell.
    if (location.refused === undefined) this.#known.set(path, entry);
    else this.#known.delete(path);
    return this.#hand(descriptor, opened, entry);
  }

  // Undefined when the name leads elsewhere by now.
  async #locate(descriptor: number, opened: Opened): Promise<Location | undefined> {
    try {
      const location = await locate(this.#root, opened, this.#links, descriptor);
      return location === undefined || (await leadsThere(opened, location)) ? location : undefined;
    } catch {
      return undefined;
    }
  }

  // The descriptor is that of what is found, or closed.
  #hand(descriptor: number, opened: Opened, entry: KnownPath): Found {
    const { location, metadata } = entry;
    const { realPath, refused } = location;
    if (refused !== undefined) {
      closeQuietly(descriptor);
      return missing(refused);
    }
    if (opened.stats.isFile())
      return { kind: "file", file: new FolderFile(descriptor, metadata, entry), realPath };
    const place = { ...opened, root: this.#root, links: this.#links, location, local: this.#local };
    return { kind: "directory", directory: new FolderDirectory(descriptor, place), realPath };
  }
}

// Written out: what is assembled of parts has its own hidden class each time, and is slow to look at.
function toMetadata(stats: BigIntStats, fixedTime: boolean): KnownPath["metadata"] {
  return { sizeBytes: Number(stats.size), modifiedNs: stats.mtimeNs, changedNs: stats.ctimeNs, fixedTime };
}

/** What is remembered of a folder's paths and times. */
export interface FolderStores {
  readonly known: Store<string, KnownPath>;
  readonly commonTimes: Store<string, CommonTime>;
  readonly places: Places;
}

export function openFolderStores(memory: Memory): FolderStores {
  return {
    known: memory.open(LOCATIONS),
    commonTimes: memory.open(COMMON_TIMES),
    places: openPlaces(memory),
  };
}

/** Makes a source of a folder on disk. */
export function folderSource(root: string, options: FolderOptions = {}): FileSource {
  return new FolderSource(root, options);
}

// A folder above may have been moved, with a link in its place: nothing of the file itself would tell.
function liesThere(descriptor: number, { location, locatedMs }: KnownPath, nowMs: number): boolean {
  const now = pathOfDescriptor(descriptor);
  return now === undefined ? nowMs - locatedMs < LOCATED_MS : now === location.real;
}
