/** A line of a header section: a field, its value, and what decided it, in words for the developer. */
export interface FieldLine {
  readonly name: string;
  readonly value: string;
  readonly because: string;
  /** The key of the configuration that decided it, such as `mounts[0].caching[1]`, where one did. */
  readonly rule?: string | undefined;
}

/**
 * The header fields of an answer, in order. They never change: each call gives new ones. Names are compared ignoring
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
  static of(
    ...lines: readonly (readonly [name: string, value: string, because: string, rule?: string | undefined])[]
  ): Fields {
    return new Fields(lines.map(([name, value, because, rule]) => ({ name, value, because, rule })));
  }

  /** Name and value by turns, frozen: what is handed to the platform. The same array each time. */
  get flat(): readonly string[] {
    this.#flat ??= flatten(this.#lines);
    return this.#flat;
  }

  [Symbol.iterator](): Iterator<FieldLine> {
    return this.#lines[Symbol.iterator]();
  }

  has(name: string): boolean {
    return findLine(this.#lines, name) >= 0;
  }

  /** The value of a field, several lines of it joined as RFC 9110 §5.3 allows; undefined when there is none. */
  get(name: string): string | undefined {
    const first = findLine(this.#lines, name);
    if (first < 0) return undefined;
    const values = this.#lines.filter((line, i) => i >= first && isNamed(line, name));
    return values.map(({ value }) => value).join(", ");
  }

  /** These, and one line more. */
  append(name: string, value: string, because: string, rule?: string): Fields {
    return new Fields([...this.#lines, { name, value, because, rule }]);
  }

  /** These, and those of other sections behind them; the same object where those are empty, with what it remembers. */
  concat(...others: readonly Fields[]): Fields {
    const lines = this.#lines.concat(...others.map((other) => other.#lines));
    return lines.length === this.#lines.length ? this : new Fields(lines);
  }

  /** These with one line for a name, where the first one of it stood or else at the end. */
  replace(name: string, value: string, because: string, rule?: string): Fields {
    const at = this.#lines.findIndex((line) => isNamed(line, name));
    const others = this.#lines.filter((line) => !isNamed(line, name));
    return new Fields(others.toSpliced(at < 0 ? others.length : at, 0, { name, value, because, rule }));
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
    const missing: FieldLine[] = [];
    let outcome: Fields = this;
    for (const line of others.#lines) {
      if (!outcome.has(line.name)) missing.push(line);
      else if (line.name === "Vary") outcome = addMembers(outcome, line);
    }
    if (missing.length > 0) outcome = new Fields([...outcome.#lines, ...missing]);
    this.#supplied = others;
    this.#outcome = outcome;
    return outcome;
  }
}

/** Why a field Vary is as it is, where nothing more is known. */
export const DEPENDS = "the fields that the answer depends on";

function addMembers(fields: Fields, { name, value, because }: FieldLine): Fields {
  const before = fields.get(name)!;
  const there = new Set(before.toLowerCase().split(/[ \t]*,[ \t]*/));
  const missing = value.split(", ").filter((member) => !there.has(member.toLowerCase()));
  return missing.length === 0
    ? fields
    : fields.replace(
        name,
        [before, ...missing].join(", "),
        because === DEPENDS ? DEPENDS : `${DEPENDS}; ${because}`,
      );
}

function flatten(lines: readonly FieldLine[]): readonly string[] {
  const flat: string[] = [];
  for (const { name, value } of lines) flat.push(name, value);
  return Object.freeze(flat);
}

function findLine(lines: readonly FieldLine[], name: string): number {
  for (let i = 0; i < lines.length; i++) if (isNamed(lines[i]!, name)) return i;
  return -1;
}

function isNamed(line: FieldLine, name: string): boolean {
  return (
    line.name === name || (line.name.length === name.length && line.name.toLowerCase() === name.toLowerCase())
  );
}
