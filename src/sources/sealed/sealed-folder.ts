import { createHash } from "node:crypto";
import type {
  Diagnosis,
  EntryMetadata,
  FileSource,
  Found,
  Look,
  NameCode,
  OpenedDirectory,
  OpenedFile,
} from "../../core/source.js";
import { joinPath } from "../../core/text/path.js";
import { missing } from "../open-errors.js";
import { Arena, type Slot } from "./arena.js";
import type { SealedEntry } from "./sealed-entry.js";

/** A longer file is sent by descriptor, in bytes. */
const KEPT_UP_TO = 1024 * 1024;
/** All bytes of a folder that are kept, in bytes; what is beyond it is sent by descriptor. */
const KEPT_BYTES = 256 * 1024 * 1024;

const SETTLED_MS = 3000;

const NEVER_CHANGES: Look = { holds: () => true, changedMs: Number.NEGATIVE_INFINITY };
const NOT_SEALED: Found = { kind: "altered" };

/**
 * A folder as it was at one moment. Small files are answered from memory, even if they change later on disk. The others are read
 * from disk, and refused unless their bytes are those that were sealed.
 */
export class SealedFolder implements FileSource {
  readonly name: string;
  readonly #live: FileSource;
  readonly #files = new Map<string, SealedEntry>();
  readonly #directories = new Map<string, Set<string>>([["", new Set()]]);
  readonly #arena = new Arena();
  readonly #places = new Map<SealedEntry, Slot>();
  readonly #loading = new Map<SealedEntry, Promise<Found>>();
  /** The metadata of files on disk whose bytes were found to be the sealed ones: the same object while they are unchanged. */
  readonly #verifying = new Map<object, Promise<boolean>>();
  readonly #verified = new WeakSet<object>();
  #keptBytes = 0;

  /** `live` is the folder itself; what is sealed of it is added. */
  constructor(live: FileSource) {
    this.name = live.name;
    this.#live = live;
  }

  /** Its files, by path. */
  get files(): ReadonlyMap<string, SealedEntry> {
    return this.#files;
  }

  /** Adds a file; `place` is where its bytes are, if they are at hand. */
  add(path: string, entry: SealedEntry, place?: Slot): void {
    this.#files.set(path, entry);
    if (place !== undefined) this.#places.set(entry, place);
    this.#addNames(path);
  }

  open(path: string): Found | Promise<Found> {
    const entry = this.#files.get(path);
    if (entry !== undefined) {
      const place = this.#places.get(entry);
      return place === undefined ? this.#load(path, entry) : this.#hand(entry, place);
    }
    const names = this.#directories.get(path);
    return names === undefined
      ? missing("no-such-file")
      : { kind: "directory", directory: this.#openDirectory(path, names) };
  }

  look(_path: string, found: Found): Look | undefined {
    const isAtHand = found.kind === "file" && found.file.bytes !== undefined;
    return isAtHand || found.kind === "missing" || found.kind === "directory" ? NEVER_CHANGES : undefined;
  }

  lookInside(): Look {
    return NEVER_CHANGES;
  }

  sealedName(path: string): NameCode | undefined {
    return this.#files.get(path)?.name;
  }

  diagnose(path: string): Promise<Diagnosis | undefined> {
    return this.#live.diagnose(path);
  }

  /** Takes memory for a file's bytes, to be filled; undefined where this many are not kept. */
  take(sizeBytes: number): { readonly place: Slot; readonly bytes: Buffer } | undefined {
    if (sizeBytes > KEPT_UP_TO || this.#keptBytes + sizeBytes > KEPT_BYTES) return undefined;
    this.#keptBytes += sizeBytes;
    return this.#arena.take(sizeBytes);
  }

  #hand(entry: SealedEntry, place: Slot): Found {
    return { kind: "file", file: new FileAtHand(entry, this.#arena.read(place)) };
  }

  // A file is read once, however many ask for it at a time.
  #load(path: string, entry: SealedEntry): Promise<Found> {
    if (entry.sizeBytes > KEPT_UP_TO || this.#keptBytes + entry.sizeBytes > KEPT_BYTES)
      return this.#openLarge(path, entry);
    let loading = this.#loading.get(entry);
    if (loading === undefined) {
      loading = this.#readSmall(path, entry).finally(() => this.#loading.delete(entry));
      this.#loading.set(entry, loading);
    }
    return loading;
  }

  async #readSmall(path: string, entry: SealedEntry): Promise<Found> {
    const found = await this.#live.open(path);
    if (found.kind !== "file") return release(found);
    const { file } = found;
    try {
      if (file.metadata.sizeBytes !== entry.sizeBytes) return NOT_SEALED;
      const bytes = await file.read(0, entry.sizeBytes, Buffer.allocUnsafe(entry.sizeBytes));
      if (digestOf(bytes) !== entry.digest) return NOT_SEALED;
      const taken = this.take(entry.sizeBytes);
      if (taken === undefined) return { kind: "file", file: new FileAtHand(entry, bytes) };
      taken.bytes.set(bytes);
      this.#places.set(entry, taken.place);
      return this.#hand(entry, taken.place);
    } catch (error) {
      return { kind: "failed", cause: (error as Error).message, busy: false };
    } finally {
      file.close();
    }
  }

  async #openLarge(path: string, entry: SealedEntry): Promise<Found> {
    const found = await this.#live.open(path);
    if (found.kind !== "file") return release(found);
    const { file } = found;
    try {
      if (this.#verified.has(file.metadata) || (await this.#isSealed(file, entry)))
        return { kind: "file", file: new FileOnDisk(entry, file) };
      file.close();
      return NOT_SEALED;
    } catch (error) {
      // A file that was cut while the digest was made was changed; a device that fails says nothing of its bytes.
      const isAltered = file.isUnchanged?.() === false;
      file.close();
      return isAltered ? NOT_SEALED : { kind: "failed", cause: (error as Error).message, busy: false };
    }
  }

  // Its bytes are read once, however many ask for it at a time.
  #isSealed(file: OpenedFile, entry: SealedEntry): Promise<boolean> {
    let verifying = this.#verifying.get(file.metadata);
    if (verifying === undefined) {
      verifying = this.#verify(file, entry).finally(() => this.#verifying.delete(file.metadata));
      this.#verifying.set(file.metadata, verifying);
    }
    return verifying;
  }

  async #verify(file: OpenedFile, entry: SealedEntry): Promise<boolean> {
    if (file.metadata.sizeBytes !== entry.sizeBytes || (await file.digest()) !== entry.digest) return false;
    if (file.isUnchanged?.() !== true) return false;
    // What changed a moment ago may change again without a sign, and is compared with the digest each time.
    const { changedNs = 0n } = file.metadata;
    if (Date.now() - Number(changedNs / 1_000_000n) > SETTLED_MS) this.#verified.add(file.metadata);
    return true;
  }

  #addNames(path: string): void {
    const slash = path.lastIndexOf("/");
    const parent = slash < 0 ? "" : path.slice(0, slash);
    const names = this.#directories.get(parent);
    if (names !== undefined) {
      names.add(path.slice(slash + 1));
      return;
    }
    this.#directories.set(parent, new Set([path.slice(slash + 1)]));
    this.#addNames(parent);
  }

  #openDirectory(path: string, names: ReadonlySet<string>): OpenedDirectory {
    const describe = (name: string): EntryMetadata | undefined => {
      const full = joinPath(path, name);
      const entry = this.#files.get(full);
      if (entry !== undefined)
        return { kind: "file", sizeBytes: entry.sizeBytes, modifiedNs: entry.modifiedNs };
      return this.#directories.has(full) ? { kind: "directory", sizeBytes: 0, modifiedNs: 0n } : undefined;
    };
    return {
      version: "sealed",
      list: async () => [...names].map((name) => ({ name, kind: describe(name)?.kind })),
      stat: async (name) => describe(name),
      isInPlace: async () => true,
      close() {},
    };
  }
}

// What stands in the place of a file that was sealed, and is none.
function release(found: Exclude<Found, { kind: "file" }>): Found {
  if (found.kind === "directory") found.directory.close();
  return found.kind === "failed" || found.kind === "forbidden" || found.kind === "unsettled"
    ? found
    : NOT_SEALED;
}

export function digestOf(bytes: Uint8Array): string {
  return createHash("sha256").update(bytes).digest("base64url");
}

/** A file whose bytes are in memory. */
class FileAtHand implements OpenedFile {
  readonly metadata: SealedEntry;
  readonly bytes: Uint8Array;

  constructor(entry: SealedEntry, bytes: Uint8Array) {
    this.metadata = entry;
    this.bytes = bytes;
  }

  async read(offset: number, length: number): Promise<Uint8Array> {
    return this.bytes.subarray(offset, offset + length);
  }

  async digest(): Promise<string> {
    return this.metadata.digest;
  }

  close(): void {}
}

/** A file on disk whose bytes were the sealed ones when it was opened: each piece is, too, or is not given. */
class FileOnDisk implements OpenedFile {
  readonly metadata: SealedEntry;
  readonly #file: OpenedFile;

  constructor(entry: SealedEntry, file: OpenedFile) {
    this.metadata = entry;
    this.#file = file;
  }

  async read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array> {
    const bytes = await this.#file.read(offset, length, into);
    if (this.#file.isUnchanged?.() !== true) throw new Error("The file was changed after it was sealed.");
    return bytes;
  }

  async digest(): Promise<string> {
    return this.metadata.digest;
  }

  close(): void {
    this.#file.close();
  }
}
