/** Bytes of small files are in blocks of this size, in bytes: memory for each by itself costs more than many of them hold. */
const BLOCK_BYTES = 8 * 1024 * 1024;

/** Where a run of bytes is in an arena. */
export interface Slot {
  readonly block: number;
  readonly offset: number;
  readonly length: number;
}

/** Memory for many files that are smaller than a block, taken in blocks and never given back. */
export class Arena {
  readonly #blocks: Buffer[] = [];
  /** In the last block, which is full before there is one. */
  #used = BLOCK_BYTES + 1;

  /** Memory for a file of at most `BLOCK_BYTES`, to be filled. */
  take(length: number): { readonly place: Slot; readonly bytes: Buffer } {
    if (this.#used + length > BLOCK_BYTES) {
      this.#blocks.push(Buffer.allocUnsafeSlow(BLOCK_BYTES));
      this.#used = 0;
    }
    const place = { block: this.#blocks.length - 1, offset: this.#used, length };
    this.#used += length;
    return { place, bytes: this.read(place) };
  }

  read({ block, offset, length }: Slot): Buffer {
    return this.#blocks[block]!.subarray(offset, offset + length);
  }
}
