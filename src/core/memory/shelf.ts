import type { StoreOptions } from "./store.js";

/** Things of one kind that are used again: what nobody takes is released beyond the bound. */
export class Shelf<Value> {
  readonly options: StoreOptions;
  readonly #values: Value[] = [];

  constructor(options: StoreOptions) {
    this.options = options;
  }

  get size(): number {
    return this.#values.length;
  }

  get cost(): number {
    return this.#values.length;
  }

  /** One of them, which is the caller's from now on; undefined when there is none. */
  take(): Value | undefined {
    return this.#values.pop();
  }

  /** Gives one back. */
  put(value: Value): void {
    if (this.#values.length < this.options.bound) this.#values.push(value);
  }
}
