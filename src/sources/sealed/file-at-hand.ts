import type { OpenedFile } from "../../core/source.js";
import type { SealedEntry } from "./sealed-entry.js";

/** A sealed file whose bytes are in memory. */
export class FileAtHand implements OpenedFile {
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
