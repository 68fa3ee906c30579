/** What a store is for, for the metrics: how much it may hold, and why what it holds is current. */
export interface StoreOptions {
  /** What it remembers, in the plural. */
  readonly name: string;
  /** The most it holds, in `unit`; what came first goes first. */
  readonly bound: number;
  readonly unit: "entries" | "bytes";
  /** Why an entry that is found is still true. */
  readonly proof: string;
}

/** A memory with a bound. The entry that would exceed it stays; the oldest make room. */
export class Store<Key, Value> {
  readonly options: StoreOptions;
  readonly #entries = new Map<Key, { value: Value; cost: number }>();
  #cost = 0;

  constructor(options: StoreOptions) {
    this.options = options;
  }

  get size(): number {
    return this.#entries.size;
  }

  /** What all entries cost together, in the store's unit. */
  get cost(): number {
    return this.#cost;
  }

  get(key: Key): Value | undefined {
    return this.#entries.get(key)?.value;
  }

  /** Like `get`, and makes the entry the youngest: for what costs more to make again than to keep in order. */
  use(key: Key): Value | undefined {
    const entry = this.#entries.get(key);
    if (entry === undefined) return undefined;
    this.#entries.delete(key);
    this.#entries.set(key, entry);
    return entry.value;
  }

  /** Keeps a value; `cost` is what it takes of the bound. */
  set(key: Key, value: Value, cost = 1): void {
    this.delete(key);
    this.#entries.set(key, { value, cost });
    this.#cost += cost;
    for (const oldest of this.#entries.keys()) {
      if (this.#cost <= this.options.bound || oldest === key) break;
      this.delete(oldest);
    }
  }

  clear(): void {
    this.#entries.clear();
    this.#cost = 0;
  }

  delete(key: Key): void {
    const entry = this.#entries.get(key);
    if (entry === undefined) return;
    this.#entries.delete(key);
    this.#cost -= entry.cost;
  }
}
