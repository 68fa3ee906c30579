import type { Diagnosis, Found } from "../../core/source.js";
import { FileAtHand } from "../sealed/file-at-hand.js";
import { hasPieces, PiecedFile } from "../sealed/pieces.js";
import type { SealedBytes } from "../sealed/sealed-bytes.js";
import type { SealedEntry } from "../sealed/sealed-entry.js";
import type { Blobs } from "./blobs.js";

/** The bytes of a release's files, from a release store. A store that cannot give them is met with 503: it may in a moment. */
export class StoredBytes implements SealedBytes {
  readonly #blobs: Blobs;

  constructor(blobs: Blobs) {
    this.#blobs = blobs;
  }

  atHand(entry: SealedEntry): Uint8Array | undefined {
    return this.#blobs.atHand(entry);
  }

  async load(_path: string, entry: SealedEntry): Promise<Found> {
    // A long file is read where its bytes are wanted: not for a HEAD, and not before the part that is asked for.
    if (hasPieces(entry.sizeBytes) && entry.pieces === undefined)
      return {
        kind: "failed",
        cause: "its seal has no digests of its pieces: publish it again",
        busy: false,
      };
    if (hasPieces(entry.sizeBytes))
      return {
        kind: "file",
        file: new PiecedFile(entry, {
          read: (index) => this.#blobs.readPiece(entry, index),
          close() {},
        }),
      };
    try {
      const { bytes, stays } = await this.#blobs.read(entry);
      const file = stays
        ? new FileAtHand(entry, bytes)
        : new PiecedFile(entry, { read: async () => bytes, close() {} });
      return { kind: "file", file };
    } catch (error) {
      return { kind: "failed", cause: (error as Error).message, busy: true };
    }
  }

  async diagnose(): Promise<Diagnosis | undefined> {
    return undefined;
  }
}
