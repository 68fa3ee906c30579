import { createHash } from "node:crypto";
import type { Diagnosis, FileMetadata, FileSource, Found, OpenedFile } from "../../core/source.js";
import { Arena, type Slot } from "./arena.js";
import { FileAtHand } from "./file-at-hand.js";
import { digestOfPiece, hasDigest, hasPieces, PIECE_BYTES, PiecedFile } from "./pieces.js";
import type { SealedBytes } from "./sealed-bytes.js";
import type { SealedEntry } from "./sealed-entry.js";
import { VerifiedRuns } from "./verified-runs.js";

/** All bytes of a folder that are kept, in bytes; what is beyond it is sent by descriptor. */
const KEPT_BYTES = 256 * 1024 * 1024;

/** Pieces of long files that wait for those who read them, in bytes. */
const PIECES_BYTES = 32 * 1024 * 1024;

const SETTLED_MS = 3000;

const NOT_SEALED: Found = { kind: "altered" };

/** The bytes of a sealed folder, from the folder itself: small files stay in memory, the others are compared with the seal. */
export class LiveBytes implements SealedBytes {
  readonly #live: FileSource;
  readonly #arena = new Arena();
  readonly #places = new Map<SealedEntry, Slot>();
  readonly #loading = new Map<SealedEntry, Promise<Found>>();
  /** The metadata of files on disk whose bytes were found to be the sealed ones: the same object while they are unchanged. */
  readonly #verifying = new Map<object, Promise<boolean>>();
  readonly #verified = new WeakSet<object>();
  /** Of files that are compared piece by piece: the pieces that were found to be the sealed ones. */
  readonly #seen = new WeakMap<object, Set<number>>();
  readonly #pieces = new VerifiedRuns(PIECES_BYTES);
  #keptBytes = 0;

  constructor(live: FileSource) {
    this.#live = live;
  }

  atHand(entry: SealedEntry): Uint8Array | undefined {
    const place = this.#places.get(entry);
    return place === undefined ? undefined : this.#arena.read(place);
  }

  diagnose(path: string): Promise<Diagnosis | undefined> {
    return this.#live.diagnose(path);
  }

  /** Takes memory for a file's bytes, to be filled; undefined where this many are not kept. */
  take(sizeBytes: number): { readonly place: Slot; readonly bytes: Buffer } | undefined {
    if (hasPieces(sizeBytes) || this.#keptBytes + sizeBytes > KEPT_BYTES) return undefined;
    this.#keptBytes += sizeBytes;
    return this.#arena.take(sizeBytes);
  }

  /** Says which file's bytes were filled into memory that was taken. */
  keep(entry: SealedEntry, place: Slot): void {
    this.#places.set(entry, place);
  }

  // A file is read once, however many ask for it at a time.
  load(path: string, entry: SealedEntry): Promise<Found> {
    if (hasPieces(entry.sizeBytes) || this.#keptBytes + entry.sizeBytes > KEPT_BYTES)
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
      this.keep(entry, taken.place);
      return { kind: "file", file: new FileAtHand(entry, taken.bytes) };
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
    if (entry.pieces !== undefined && !this.#verified.has(file.metadata))
      return this.#openPieces(entry, file);
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
    if (isSettled(file.metadata)) this.#verified.add(file.metadata);
    return true;
  }

  // The first piece is compared before the answer begins, so that most changed files are refused as such; the others on their way.
  async #openPieces(entry: SealedEntry, file: OpenedFile): Promise<Found> {
    const { metadata } = file;
    if (metadata.sizeBytes !== entry.sizeBytes) {
      file.close();
      return NOT_SEALED;
    }
    const pieces = entry.pieces!;
    const pieced = new PiecedFile(entry, {
      read: (index) => {
        const digest = digestOfPiece(pieces, index);
        return this.#pieces.load(Buffer.from(digest).toString("hex"), async () => {
          const bytes = await readPiece(file, index);
          if (!hasDigest(bytes, digest)) throw new ChangedError();
          if (isSettled(metadata) && file.isUnchanged?.() === true) this.#noteVerified(metadata, index);
          return bytes;
        });
      },
      close: () => file.close(),
    });
    try {
      await pieced.read(0, 1);
      return { kind: "file", file: pieced };
    } catch (error) {
      file.close();
      return error instanceof ChangedError
        ? NOT_SEALED
        : { kind: "failed", cause: (error as Error).message, busy: false };
    }
  }

  // A file whose pieces were all compared is not compared again while it is unchanged.
  #noteVerified(metadata: FileMetadata, index: number): void {
    const seen = this.#seen.get(metadata) ?? new Set();
    seen.add(index);
    this.#seen.set(metadata, seen);
    if (seen.size < Math.ceil(metadata.sizeBytes / PIECE_BYTES)) return;
    this.#verified.add(metadata);
    this.#seen.delete(metadata);
  }
}

/** A file that is not the one that was sealed. */
class ChangedError extends Error {
  constructor() {
    super("The file was changed after it was sealed.");
  }
}

// What changed a moment ago may change again without a sign, and is compared with the digest each time.
function isSettled({ changedNs = 0n }: FileMetadata): boolean {
  return Date.now() - Number(changedNs / 1_000_000n) > SETTLED_MS;
}

async function readPiece(file: OpenedFile, index: number): Promise<Uint8Array> {
  const offset = index * PIECE_BYTES;
  const length = Math.min(PIECE_BYTES, file.metadata.sizeBytes - offset);
  const bytes = await file.read(offset, length, Buffer.allocUnsafe(length));
  if (bytes.length !== length) throw new ChangedError();
  return bytes;
}

// Something else now has the name of a sealed file.
function release(found: Exclude<Found, { kind: "file" }>): Found {
  if (found.kind === "directory") found.directory.close();
  return found.kind === "failed" || found.kind === "forbidden" || found.kind === "unsettled"
    ? found
    : NOT_SEALED;
}

export function digestOf(bytes: Uint8Array): string {
  return createHash("sha256").update(bytes).digest("base64url");
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
    if (this.#file.isUnchanged?.() !== true) throw new ChangedError();
    return bytes;
  }

  async digest(): Promise<string> {
    return this.metadata.digest;
  }

  close(): void {
    this.#file.close();
  }
}
