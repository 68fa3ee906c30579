/** So many keys are remembered in each of two generations. */
const GENERATION = 4096;

/** Tells whether a key was met before, not long ago. Forgets the oldest in two generations. */
export class RecentKeys {
  #young = new Set<string>();
  #old = new Set<string>();

  /** Notes a key; true when it had been noted. */
  add(key: string): boolean {
    const wasThere = this.#young.has(key) || this.#old.has(key);
    this.#young.add(key);
    if (this.#young.size >= GENERATION) {
      this.#old = this.#young;
      this.#young = new Set();
    }
    return wasThere;
  }
}
