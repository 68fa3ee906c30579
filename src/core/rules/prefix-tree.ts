/** A value kept at a path, found by the paths below it. */
export interface PrefixMatch<Value> {
  readonly value: Value;
  /** How much of the path the prefix takes, in UTF-16 code units; the rest begins after the following slash. */
  readonly length: number;
}

interface Node<Value> {
  value: Value | undefined;
  readonly children: Map<string, Node<Value>>;
}

/** Finds the longest prefix of a path on whole segments, in time that depends on the path and not on how many prefixes there are. */
export class PrefixTree<Value> {
  readonly #root: Node<Value> = { value: undefined, children: new Map() };
  readonly #values: Value[] = [];

  /** Keeps a value at a path (segments joined by slashes, none at the ends; `""` is the root). */
  set(path: string, value: Value): void {
    let node = this.#root;
    for (const segment of path === "" ? [] : path.split("/")) {
      let child = node.children.get(segment);
      if (child === undefined) {
        child = { value: undefined, children: new Map() };
        node.children.set(segment, child);
      }
      node = child;
    }
    node.value = value;
    this.#values.push(value);
  }

  /** All values, in the order in which they were set. */
  values(): readonly Value[] {
    return this.#values;
  }

  /** The value at the nearest enclosing prefix, or undefined. */
  find(path: string): PrefixMatch<Value> | undefined {
    let node = this.#root;
    let best: PrefixMatch<Value> | undefined =
      node.value === undefined ? undefined : { value: node.value, length: 0 };
    let start = 0;
    while (start <= path.length) {
      const slash = path.indexOf("/", start);
      const end = slash < 0 ? path.length : slash;
      const child = node.children.get(path.slice(start, end));
      if (child === undefined) break;
      node = child;
      if (node.value !== undefined) best = { value: node.value, length: end };
      start = end + 1;
    }
    return best;
  }
}
