/** A line of a header section: a field, its value, and what decided it, in words for the developer. */
export interface FieldLine {
  readonly name: string;
  readonly value: string;
  readonly because: string;
}

/**
 * The header fields of an answer, in order. They never change: each call gives new ones. Names are compared without regard to
 * case (RFC 9110 §5.1), and values are never mistaken for names.
 */
export class Fields implements Iterable<FieldLine> {
  static readonly NONE: Fields = new Fields([]);

  readonly #lines: readonly FieldLine[];
  #flat: readonly string[] | undefined;
  // The last fields that were added by `supply`, and what came of it: on a hot path the same two meet again and again.
  #supplied: Fields | undefined;
  #outcome: Fields | undefined;

  private constructor(lines: readonly FieldLine[]) {
    this.#lines = lines;
  }

  /** Fields of lines in this order. A name may stand more than once. */
  static of(...lines: readonly (readonly [name: string, value: string, because: string])[]): Fields {
    return new Fields(lines.map(([name, value, because]) => ({ name, value, because })));
  }

  /** Name and value by turns, frozen: what is handed to the platform. The same array each time. */
  get flat(): readonly string[] {
    this.#flat ??= Object.freeze(this.#lines.flatMap(({ name, value }) => [name, value]));
    return this.#flat;
  }

  [Symbol.iterator](): Iterator<FieldLine> {
    return this.#lines[Symbol.iterator]();
  }

  has(name: string): boolean {
    return this.#lines.some((line) => isNamed(line, name));
  }

  /** The value of a field, several lines of it joined as RFC 9110 §5.3 allows; undefined when there is none. */
  get(name: string): string | undefined {
    const values = this.#lines.filter((line) => isNamed(line, name)).map(({ value }) => value);
    return values.length === 0 ? undefined : values.join(", ");
  }

  /** These, and one line more. */
  append(name: string, value: string, because: string): Fields {
    return new Fields([...this.#lines, { name, value, because }]);
  }

  /** These, and those of another section behind them. */
  concat(others: Fields): Fields {
    return others.#lines.length === 0 ? this : new Fields([...this.#lines, ...others.#lines]);
  }

  /** These with one line for a name, where the first one of it stood or else at the end. */
  replace(name: string, value: string, because: string): Fields {
    const at = this.#lines.findIndex((line) => isNamed(line, name));
    const others = this.#lines.filter((line) => !isNamed(line, name));
    return new Fields(others.toSpliced(at < 0 ? others.length : at, 0, { name, value, because }));
  }

  /** These without a field. */
  remove(name: string): Fields {
    return this.has(name) ? new Fields(this.#lines.filter((line) => !isNamed(line, name))) : this;
  }

  /**
   * These, with whatever they lack of others: a field that is said here already stands, and of Vary, which is a list, the members
   * that are missing are added (RFC 9110 §12.5.5).
   */
  supply(others: Fields): Fields {
    if (this.#supplied === others) return this.#outcome!;
    let outcome: Fields = this;
    for (const line of others.#lines) {
      const before = this.get(line.name);
      if (before === undefined) outcome = outcome.append(line.name, line.value, line.because);
      else if (line.name === "Vary") outcome = addMembers(outcome, before, line);
    }
    this.#supplied = others;
    this.#outcome = outcome;
    return outcome;
  }
}

function addMembers(fields: Fields, before: string, { name, value, because }: FieldLine): Fields {
  const there = new Set(before.toLowerCase().split(/[ \t]*,[ \t]*/));
  const missing = value.split(", ").filter((member) => !there.has(member.toLowerCase()));
  return missing.length === 0
    ? fields
    : fields.replace(name, [before, ...missing].join(", "), `what the answer was negotiated by; ${because}`);
}

function isNamed(line: FieldLine, name: string): boolean {
  return line.name.length === name.length && line.name.toLowerCase() === name.toLowerCase();
}
