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

/** Where a file's pieces are read: each is whole, and has its digest. Rejects where it cannot be had, or is another. */
export interface PieceReader {
  read(index: number): Promise<Uint8Array>;
  close(): void;
}

/** A file whose bytes come piece by piece, each verified before a byte of it is given. The next piece is read ahead. */
export class PiecedFile implements OpenedFile {
  readonly metadata: SealedEntry;
  readonly #reader: PieceReader;
  #held: { readonly index: number; readonly bytes: Promise<Uint8Array> } | undefined;
  #ahead: { readonly index: number; readonly bytes: Promise<Uint8Array> } | undefined;
  #lastEnd = -1;

  constructor(metadata: SealedEntry, reader: PieceReader) {
    this.metadata = metadata;
    this.#reader = reader;
  }

  async read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array> {
    const end = Math.min(offset + length, this.metadata.sizeBytes);
    if (end <= offset) return new Uint8Array(0);
    const goesOn = offset === this.#lastEnd;
    this.#lastEnd = end;
    const first = Math.floor(offset / PIECE_BYTES);
    const last = Math.floor((end - 1) / PIECE_BYTES);
    if (first === last) {
      const bytes = await this.#piece(first);
      if (goesOn) this.#readAhead(first + 1);
      const start = first * PIECE_BYTES;
      return bytes.subarray(offset - start, end - start);
    }
    const all = into !== undefined && into.length >= end - offset ? into : new Uint8Array(end - offset);
    for (let index = first; index <= last; index++) {
      const start = index * PIECE_BYTES;
      const bytes = await this.#piece(index);
      const part = bytes.subarray(Math.max(0, offset - start), Math.min(bytes.length, end - start));
      all.set(part, Math.max(0, start - offset));
    }
    if (goesOn) this.#readAhead(last + 1);
    return all.subarray(0, end - offset);
  }

  async digest(): Promise<string> {
    return this.metadata.digest;
  }

  close(): void {
    this.#reader.close();
  }

  #piece(index: number): Promise<Uint8Array> {
    if (this.#held?.index === index) return this.#held.bytes;
    const bytes = this.#ahead?.index === index ? this.#ahead.bytes : this.#reader.read(index);
    this.#held = { index, bytes };
    // What failed is asked for again by the next read.
    bytes.catch(() => {
      if (this.#held?.bytes === bytes) this.#held = undefined;
    });
    return bytes;
  }

  #readAhead(index: number): void {
    if (this.#ahead?.index === index || index * PIECE_BYTES >= this.metadata.sizeBytes) return;
    const bytes = this.#reader.read(index);
    bytes.catch(() => {});
    this.#ahead = { index, bytes };
  }
}
