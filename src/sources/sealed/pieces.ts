import { createHash } from "node:crypto";
import type { OpenedFile } from "../../core/source.js";
import type { SealedEntry } from "./sealed-entry.js";

/** A file that is longer than this has a digest of each piece of this length in its seal, in bytes. The last piece may be shorter. */
export const PIECE_BYTES = 1024 * 1024;

/** Bytes of a SHA-256. */
const DIGEST_BYTES = 32;

/** Whether a file of this size has pieces. */
export const hasPieces = (sizeBytes: number): boolean => sizeBytes > PIECE_BYTES;

/** How many bytes the digests of a file's pieces take. */
export const piecesLength = (sizeBytes: number): number => Math.ceil(sizeBytes / PIECE_BYTES) * DIGEST_BYTES;

/** The digests of a file, made in one pass: of all its bytes, in base64url, and of its pieces, one after another. */
export interface PiecedDigests {
  readonly digest: string;
  readonly pieces: Uint8Array;
}

/** Reads a file once for both digests. Rejects when it cannot be read, or became shorter. */
export async function digestPieces(file: OpenedFile): Promise<PiecedDigests> {
  const { sizeBytes } = file.metadata;
  const whole = createHash("sha256");
  const pieces: Buffer[] = [];
  const buffer = Buffer.allocUnsafe(Math.min(PIECE_BYTES, sizeBytes));
  for (let offset = 0; offset < sizeBytes; offset += PIECE_BYTES) {
    const length = Math.min(PIECE_BYTES, sizeBytes - offset);
    const bytes = await file.read(offset, length, buffer);
    if (bytes.length !== length) throw new Error("it became shorter while it was read");
    whole.update(bytes);
    pieces.push(createHash("sha256").update(bytes).digest());
  }
  return { digest: whole.digest("base64url"), pieces: Buffer.concat(pieces) };
}

/** The digest that a piece must have. */
export function digestOfPiece(pieces: Uint8Array, index: number): Uint8Array {
  return pieces.subarray(index * DIGEST_BYTES, (index + 1) * DIGEST_BYTES);
}

/** Whether bytes have a digest. */
export function hasDigest(bytes: Uint8Array, digest: Uint8Array): boolean {
  return createHash("sha256").update(bytes).digest().equals(digest);
}

/** Where a file's pieces are read. */
export interface PieceReader {
  /** A whole piece, which has its digest. Rejects if it cannot be read, or has other bytes. */
  read(index: number): Promise<Uint8Array>;
  close(): void;
}

/**
 * A file whose bytes come piece by piece, each verified before a byte of it is given. The piece after one that is read in order is asked for
 * early. It holds no bytes itself: a slow client would hold them for as long as it likes.
 */
export class PiecedFile implements OpenedFile {
  readonly metadata: SealedEntry;
  readonly #reader: PieceReader;
  #lastEnd = -1;
  #ahead = 0;

  constructor(metadata: SealedEntry, reader: PieceReader) {
    this.metadata = metadata;
    this.#reader = reader;
  }

  async read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array> {
    const end = Math.min(offset + length, this.metadata.sizeBytes);
    if (end <= offset) return new Uint8Array(0);
    const first = Math.floor(offset / PIECE_BYTES);
    const last = Math.floor((end - 1) / PIECE_BYTES);
    if (offset === this.#lastEnd) this.#readAhead(last + 1);
    this.#lastEnd = end;
    if (first === last) {
      const start = first * PIECE_BYTES;
      return (await this.#reader.read(first)).subarray(offset - start, end - start);
    }
    const all = into !== undefined && into.length >= end - offset ? into : new Uint8Array(end - offset);
    for (let index = first; index <= last; index++) {
      const start = index * PIECE_BYTES;
      const bytes = await this.#reader.read(index);
      const part = bytes.subarray(Math.max(0, offset - start), Math.min(bytes.length, end - start));
      all.set(part, Math.max(0, start - offset));
    }
    return all.subarray(0, end - offset);
  }

  async digest(): Promise<string> {
    return this.metadata.digest;
  }

  close(): void {
    this.#reader.close();
  }

  // What fails is met by the read that wants it.
  #readAhead(index: number): void {
    if (this.#ahead === index || index * PIECE_BYTES >= this.metadata.sizeBytes) return;
    this.#ahead = index;
    this.#reader.read(index).catch(() => {});
  }
}
