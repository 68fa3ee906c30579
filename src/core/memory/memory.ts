import { Shelf } from "./shelf.js";
import { Store, type StoreOptions } from "./store.js";

/** What a memory holds now, beside its bound. */
export interface MemoryMetric extends StoreOptions {
  readonly entries: number;
  /** In `unit`. */
  readonly used: number;
}

/** The counts that its metrics report. */
export interface Counted {
  readonly options: StoreOptions;
  readonly size: number;
  readonly cost: number;
}

/** All that a site remembers, in one place: each store with its bound, its proof of being current, and its count. */
export class Memory {
  readonly #counted: Counted[] = [];
  readonly #shelves = new Map<string, Shelf<never>>();

  /** Makes a store that is counted here. */
  open<Key, Value>(options: StoreOptions): Store<Key, Value> {
    const store = new Store<Key, Value>(options);
    this.#counted.push(store);
    return store;
  }

  /** Counts what somebody else holds. */
  count(counted: Counted): void {
    this.#counted.push(counted);
  }

  /** The shelf of a name, the same for all who ask. */
  shelf<Value>(options: StoreOptions): Shelf<Value> {
    let shelf = this.#shelves.get(options.name) as Shelf<Value> | undefined;
    if (shelf === undefined) {
      shelf = new Shelf<Value>(options);
      this.#shelves.set(options.name, shelf as unknown as Shelf<never>);
      this.#counted.push(shelf);
    }
    return shelf;
  }

  /** The metrics of each store; stores of one name are told together. */
  metrics(): MemoryMetric[] {
    const metrics = new Map<string, MemoryMetric>();
    for (const { options, size, cost } of this.#counted) {
      const before = metrics.get(options.name) ?? { ...options, bound: 0, entries: 0, used: 0 };
      metrics.set(options.name, {
        ...before,
        bound: before.bound + options.bound,
        entries: before.entries + size,
        used: before.used + cost,
      });
    }
    return [...metrics.values()];
  }
}
