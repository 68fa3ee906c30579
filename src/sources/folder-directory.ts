import { type BigIntStats, type Dirent, fstatSync, lstatSync } from "node:fs";
import { lstat, open, opendir, stat } from "node:fs/promises";
import type { EntryKind, EntryMetadata, Failed, OpenedDirectory, SourceEntry } from "../core/source.js";
import { joinPath } from "../core/text/path.js";
import { closeQuietly } from "./folder-file.js";
import { type LinkPolicy, type Location, locate, type Opened, pathOfDescriptor } from "./links.js";
import { explainError } from "./open-errors.js";

/** How many entries are read between two turns of the event loop. */
const AT_A_TIME = 1024;

/** How long ago a folder must have changed for its time to tell of every change, in milliseconds. */
const SETTLED_MS = 1000;

// Linux opens so what is only asked about: it needs no permission to read, and waits for nothing (open(2), O_PATH).
const ONLY_ASKED = 0o10000000;

/** What changes whenever a directory's names do. */
export function versionOf({ dev, ino, mtimeNs, ctimeNs }: BigIntStats): string {
  return `${dev}-${ino}-${mtimeNs}-${ctimeNs}`;
}

/** A directory that was opened, with what is known about its place. */
export interface DirectoryPlace extends Opened {
  /** The real path of the folder that it belongs to. */
  readonly root: string;
  readonly links: LinkPolicy;
  readonly location: Location;
  /** True where a name that was just read can be asked about without waiting, as a rule. */
  readonly local: boolean;
}

/** A name that takes longer is not in the system's memory, in milliseconds: the others are asked about off the main thread. */
const IN_MEMORY_MS = 1;

/**
 * An open descriptor of a directory. On Linux its entries are read through the descriptor, whatever the name leads to by then;
 * elsewhere by its name, and where that leads is asked before and after.
 */
export class FolderDirectory implements OpenedDirectory {
  readonly #place: DirectoryPlace;
  #descriptor: number;
  #inPlace: boolean;
  #entries: string | undefined;

  constructor(descriptor: number, place: DirectoryPlace) {
    this.#descriptor = descriptor;
    this.#place = place;
    this.#inPlace = place.local;
  }

  get version(): string | undefined {
    const { stats } = this.#place;
    // Another change within the same tick of the file system's clock would leave the time as it is.
    return Date.now() - Number(stats.mtimeMs) < SETTLED_MS ? undefined : versionOf(stats);
  }

  /** Read in portions, so that a large directory holds nobody up. */
  async list(atMost = Number.POSITIVE_INFINITY): Promise<readonly SourceEntry[] | Failed> {
    try {
      const folder = await opendir(this.#way(), { bufferSize: AT_A_TIME });
      const entries: SourceEntry[] = [];
      try {
        // The first read of a portion fetches all of it, off the main thread; the others take from memory what it fetched.
        for (let entry = await folder.read(); entry !== null; entry = await folder.read()) {
          if (entries.length >= atMost) return entries;
          entries.push({ name: entry.name, kind: kindOf(entry) });
          for (let left = AT_A_TIME - 1; left > 0; left--) {
            const next = folder.readSync();
            if (next === null) return entries;
            // Deno gives the first one again where the two ways to read meet.
            if (next.name === entry.name) continue;
            entries.push({ name: next.name, kind: kindOf(next) });
          }
        }
        return entries;
      } finally {
        await folder.close();
      }
    } catch (error) {
      const found = explainError(error as NodeJS.ErrnoException);
      return found.kind === "failed"
        ? found
        : { kind: "failed", cause: (error as NodeJS.ErrnoException).code ?? "unknown", busy: false };
    }
  }

  async stat(name: string): Promise<EntryMetadata | undefined> {
    const full = `${this.#way()}/${name}`;
    try {
      const own = this.#inPlace ? this.#askInPlace(full) : await lstat(full, { bigint: true });
      if (!own.isSymbolicLink()) return toMetadata(own);
      return await (pathOfDescriptor(this.#descriptor) === undefined
        ? this.#followByName(full, name)
        : this.#follow(full, name));
    } catch {
      return undefined;
    }
  }

  async isInPlace(): Promise<boolean> {
    const { root, links, location } = this.#place;
    const now =
      pathOfDescriptor(this.#descriptor) ??
      (await locate(root, this.#place, links).catch(() => undefined))?.real;
    return now === location.real;
  }

  close(): void {
    if (this.#descriptor >= 0) closeQuietly(this.#descriptor);
    this.#descriptor = -1;
  }

  #askInPlace(full: string): BigIntStats {
    const started = performance.now();
    const stats = lstatSync(full, { bigint: true });
    if (performance.now() - started > IN_MEMORY_MS) this.#inPlace = false;
    return stats;
  }

  /** The path that its entries are reached by. */
  #way(): string {
    this.#entries ??=
      pathOfDescriptor(this.#descriptor) === undefined
        ? this.#place.full
        : `/proc/self/fd/${this.#descriptor}`;
    return this.#entries;
  }

  // What a link leads to is opened, and asked where it is: its name may be given to another at any moment.
  async #follow(full: string, name: string): Promise<EntryMetadata | undefined> {
    const target = await open(full, ONLY_ASKED);
    try {
      const stats = fstatSync(target.fd, { bigint: true });
      return this.#judge(
        stats,
        await locate(this.#place.root, this.#toOpened(name, full, stats), this.#place.links, target.fd),
      );
    } finally {
      await target.close();
    }
  }

  async #followByName(full: string, name: string): Promise<EntryMetadata | undefined> {
    const stats = await stat(full, { bigint: true });
    return this.#judge(
      stats,
      await locate(this.#place.root, this.#toOpened(name, full, stats), this.#place.links),
    );
  }

  #judge(stats: BigIntStats, location: Location | undefined): EntryMetadata | undefined {
    if (location === undefined || location.refused !== undefined) return undefined;
    return { ...toMetadata(stats), realPath: location.realPath };
  }

  #toOpened(name: string, full: string, stats: BigIntStats): Opened {
    const { path } = this.#place;
    return { path: joinPath(path, name), full, stats };
  }
}

function toMetadata(stats: BigIntStats): EntryMetadata {
  const kind = mayRead(stats) ? kindOf(stats)! : "unreadable";
  return { kind, sizeBytes: Number(stats.size), modifiedNs: stats.mtimeNs };
}

// What the mode bits let this process do: reading a file, or reaching what is in a folder (POSIX file access permissions).
function mayRead(stats: BigIntStats): boolean {
  if (process.geteuid === undefined || process.geteuid() === 0) return true;
  const wanted = stats.isDirectory() ? 0o5n : 0o4n;
  const isOwner = stats.uid === BigInt(process.geteuid());
  const inGroup = [process.getegid!(), ...process.getgroups!()].some((group) => BigInt(group) === stats.gid);
  const shift = isOwner ? 6n : inGroup ? 3n : 0n;
  return ((stats.mode >> shift) & wanted) === wanted;
}

function kindOf(entry: Dirent | BigIntStats): EntryKind | undefined {
  if (entry.isDirectory()) return "directory";
  if (entry.isFile()) return "file";
  return entry.isSymbolicLink() ? undefined : "special";
}
