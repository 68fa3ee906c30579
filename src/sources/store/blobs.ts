import { digestOfPiece, hasDigest, PIECE_BYTES } from "../sealed/pieces.js";
import type { SealedEntry } from "../sealed/sealed-entry.js";
import { VerifiedRuns } from "../sealed/verified-runs.js";
import type { DiskCache } from "./disk-cache.js";
import { type ObjectStore, StoreError } from "./object-store.js";
import { fileKey, toHex } from "./pointer.js";
import { TIMES } from "./times.js";

/** Files without pieces stay in memory whole, up to this many bytes together. */
const KEPT_BYTES = 256 * 1024 * 1024;
/** Pieces of long files, and small ones that are beyond that, wait in memory for the next who wants them, in bytes. */
const RECENT_BYTES = 64 * 1024 * 1024;

/** A run of bytes that has a digest: a whole file, or a piece of one. */
interface Run {
  readonly key: string;
  readonly digest: Uint8Array;
  readonly length: number;
  readonly part: { readonly offset: number; readonly length: number } | undefined;
}

/**
 * The files of a release store by their digests: in memory, in a cache on disk, or in the store. No byte is given before it was
 * verified. However many ask for the same at a time, the store is asked once.
 */
export class Blobs {
  /** How many files and pieces came from where, reads that failed, and bytes that came from the store. */
  readonly counts = { memory: 0, disk: 0, store: 0, failures: 0, bytes: 0 };
  readonly #store: ObjectStore;
  readonly #cache: DiskCache | undefined;
  readonly #kept = new Map<string, Uint8Array>();
  readonly #recent = new VerifiedRuns(RECENT_BYTES);
  #keptBytes = 0;
  #failure: { readonly atMs: number; readonly error: StoreError } | undefined;

  constructor(store: ObjectStore, cache: DiskCache | undefined) {
    this.#store = store;
    this.#cache = cache;
  }

  /** What is kept in memory, in bytes. */
  get memoryBytes(): number {
    return this.#keptBytes + this.#recent.bytes;
  }

  /** Where the bytes of a file are just now, in words. */
  whereIs({ digest, sizeBytes, pieces }: SealedEntry): string {
    const hex = toHex(digest);
    const key = `${fileKey(hex)} of ${this.#store.name}`;
    if (pieces !== undefined) {
      const all = Math.ceil(sizeBytes / PIECE_BYTES);
      const names = Array.from({ length: all }, (_, index) =>
        Buffer.from(digestOfPiece(pieces, index)).toString("hex"),
      );
      const recent = names.filter((name) => this.#recent.has(name)).length;
      const cached = names.filter((name) => this.#cache?.has(name)).length;
      return `in ${all} pieces, each verified: ${recent} in memory, ${cached} in the cache on disk, all in ${key}`;
    }
    if (this.#kept.has(digest) || this.#recent.has(hex)) return `in memory; from ${key}`;
    return this.#cache?.has(hex) ? `in the cache on disk; from ${key}` : `from ${key}`;
  }

  /** A small file's bytes, if they are in memory to stay. */
  atHand({ digest }: SealedEntry): Uint8Array | undefined {
    const bytes = this.#kept.get(digest);
    if (bytes !== undefined) this.counts.memory++;
    return bytes;
  }

  /** A small file's bytes, and whether they stay in memory. Rejects with a StoreError. */
  async read(entry: SealedEntry): Promise<{ readonly bytes: Uint8Array; readonly stays: boolean }> {
    const { digest, sizeBytes } = entry;
    const bytes = await this.#load({
      key: fileKey(toHex(digest)),
      digest: Buffer.from(digest, "base64url"),
      length: sizeBytes,
      part: undefined,
    });
    if (!this.#kept.has(digest) && this.#keptBytes + sizeBytes <= KEPT_BYTES) {
      this.#kept.set(digest, bytes);
      this.#keptBytes += sizeBytes;
      this.#recent.forget(toHex(digest));
    }
    return { bytes, stays: this.#kept.has(digest) };
  }

  /** One piece of a long file. Rejects with a StoreError. */
  readPiece({ digest, sizeBytes, pieces }: SealedEntry, index: number): Promise<Uint8Array> {
    const offset = index * PIECE_BYTES;
    const length = Math.min(PIECE_BYTES, sizeBytes - offset);
    return this.#load({
      key: fileKey(toHex(digest)),
      digest: digestOfPiece(pieces!, index),
      length,
      part: { offset, length },
    });
  }

  /** Lets go of small files that no release in use has. */
  keepOnly(digests: ReadonlySet<string>): void {
    for (const [digest, { length }] of this.#kept) {
      if (digests.has(digest)) continue;
      this.#kept.delete(digest);
      this.#keptBytes -= length;
    }
  }

  #load(run: Run): Promise<Uint8Array> {
    const name = Buffer.from(run.digest).toString("hex");
    if (this.#recent.has(name)) this.counts.memory++;
    return this.#recent.load(name, () => this.#find(name, run));
  }

  async #find(name: string, run: Run): Promise<Uint8Array> {
    const cached = await this.#cache?.read(name, run.length);
    if (cached !== undefined) {
      if (hasDigest(cached, run.digest)) {
        this.counts.disk++;
        return cached;
      }
      await this.#cache!.remove(name);
    }
    const bytes = await this.#fetch(run);
    // Nobody waits for the disk.
    void this.#cache?.write(name, bytes);
    return bytes;
  }

  async #fetch(run: Run): Promise<Uint8Array> {
    const { atMs, error } = this.#failure ?? {};
    if (error !== undefined && performance.now() - atMs! < TIMES.rest) throw error;
    try {
      const bytes = await this.#ask(run);
      this.counts.store++;
      this.counts.bytes += bytes.length;
      this.#failure = undefined;
      return bytes;
    } catch (failure) {
      this.counts.failures++;
      if (!(failure instanceof StoreError) || failure instanceof WrongBytes) throw failure;
      // To a visitor all of it may be over in a moment, a key that is refused as well.
      const error = new StoreError(failure.message, { cause: failure });
      this.#failure = { atMs: performance.now(), error };
      throw error;
    }
  }

  // Bytes may have been damaged on their way: a second time they were not.
  async #ask(run: Run): Promise<Uint8Array> {
    for (let attempt = 1; ; attempt++) {
      const { key, part, length, digest } = run;
      const options = { atMost: length, deadlineMs: TIMES.deadline, ...(part && { part }) };
      const bytes = await this.#store.read(key, options);
      if (bytes === undefined) throw new WrongBytes(`${this.#store.name}: ${key} is missing.`);
      if (bytes.length === length && hasDigest(bytes, digest)) return bytes;
      if (attempt === 2)
        throw new WrongBytes(`${this.#store.name}: ${key} has other bytes than its name says.`);
    }
  }
}

/** An object that is not what its name says: asking for others is no use, and no harm. */
class WrongBytes extends StoreError {}
