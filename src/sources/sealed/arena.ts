/** Bytes of small files are in blocks of this size, in bytes: memory for each by itself costs more than many of them hold. */
const BLOCK_BYTES = 8 * 1024 * 1024;

/** Where a run of bytes is in an arena. */
export interface Place {
  readonly block: number;
  readonly offset: number;
  readonly length: number;
}

/** Memory for many small files, taken in blocks and never given back. */
export class Arena {
  readonly #blocks: Buffer[] = [];
  #used = BLOCK_BYTES;

  /** Memory for a file, to be filled. */
  take(length: number): { readonly place: Place; readonly bytes: Buffer } {
    if (length > BLOCK_BYTES) {
      const block = this.#blocks.push(Buffer.allocUnsafeSlow(length)) - 1;
      // The next small file begins its own block.
      this.#used = BLOCK_BYTES;
      return { place: { block, offset: 0, length }, bytes: this.#blocks[block]! };
    }
    if (this.#blocks.length === 0 || this.#used + length > BLOCK_BYTES) {
      this.#blocks.push(Buffer.allocUnsafeSlow(BLOCK_BYTES));
      this.#used = 0;
    }
    const place = { block: this.#blocks.length - 1, offset: this.#used, length };
    this.#used += length;
    return { place, bytes: this.read(place) };
  }

  read({ block, offset, length }: Place): Buffer {
    return this.#blocks[block]!.subarray(offset, offset + length);
  }
}
