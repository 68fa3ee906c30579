/** Bits of a generation. A key sets two; a fifth of the bits, and a key that is new is taken for one that was met once in 25 times. */
const BITS = 1 << 20;
const KEYS_AT_MOST = BITS / 10;

/**
 * Tells whether a key was met before, not long ago: probably. Takes the same memory however many there are, and forgets the oldest
 * in two generations (a Bloom filter each).
 */
export class RecentKeys {
  #young = new Uint32Array(BITS / 32);
  #old = new Uint32Array(BITS / 32);
  #count = 0;

  /** Notes a key; true when it had been noted. */
  add(key: string): boolean {
    const [first, second] = hash(key);
    const wasThere =
      (has(this.#young, first) && has(this.#young, second)) ||
      (has(this.#old, first) && has(this.#old, second));
    set(this.#young, first);
    set(this.#young, second);
    if (++this.#count >= KEYS_AT_MOST) {
      this.#count = 0;
      [this.#old, this.#young] = [this.#young, this.#old];
      this.#young.fill(0);
    }
    return wasThere;
  }
}

// FNV-1a over UTF-16 code units, and a second mixing of it.
function hash(key: string): readonly [number, number] {
  let h = 0x811c9dc5;
  for (let i = 0; i < key.length; i++) h = Math.imul(h ^ key.charCodeAt(i), 0x01000193);
  const other = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  return [(h >>> 0) % BITS, ((other ^ (other >>> 13)) >>> 0) % BITS];
}

function has(bits: Uint32Array, index: number): boolean {
  return (bits[index >>> 5]! & (1 << (index & 31))) !== 0;
}

function set(bits: Uint32Array, index: number): void {
  bits[index >>> 5]! |= 1 << (index & 31);
}
