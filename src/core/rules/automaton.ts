/** A piece of a pattern. `anything` is a character of a path, slashes among them; the others but `character` never match a slash. */
export type Piece =
  | { readonly kind: "character"; readonly code: number }
  | { readonly kind: "name-character" }
  | { readonly kind: "anything" }
  | {
      readonly kind: "class";
      readonly ranges: readonly (readonly [number, number])[];
      readonly negated: boolean;
    }
  | { readonly kind: "choice"; readonly of: readonly (readonly Piece[])[] }
  | { readonly kind: "maybe" | "many" | "some"; readonly of: readonly Piece[] };

type Test = (code: number) => boolean;

/** A state: it takes one character and goes on, or goes on at once to others. The last state is the one that accepts. */
interface State {
  test: Test | undefined;
  readonly next: number[];
}

const SLASH = 0x2f;

/** A nondeterministic automaton (Thompson's construction): all its states are followed at once, and it never goes back in a text. */
export class Automaton {
  readonly #states: readonly State[];
  readonly #start: readonly number[];
  /** In which step a state was last reached: none is followed twice in one. */
  readonly #reached: Uint32Array;
  #step = 0;

  constructor(states: readonly State[]) {
    this.#states = states;
    this.#reached = new Uint32Array(states.length);
    this.#start = this.#open([0]);
  }

  /** True when the whole text is accepted. */
  accepts(text: string): boolean {
    return this.#run(text, false);
  }

  /** True when the text is accepted, or a part of it up to a slash. */
  acceptsAbove(text: string): boolean {
    return this.#run(text, true);
  }

  #run(text: string, above: boolean): boolean {
    let current = this.#start;
    for (let at = 0; at < text.length; at++) {
      if (current.length === 0) return false;
      const code = text.charCodeAt(at);
      if (above && code === SLASH && this.#isAccepted(current)) return true;
      current = this.#open(this.#take(current, code));
    }
    return this.#isAccepted(current);
  }

  #take(current: readonly number[], code: number): number[] {
    const taken: number[] = [];
    for (const index of current) {
      const { test, next } = this.#states[index]!;
      if (test?.(code)) taken.push(next[0]!);
    }
    return taken;
  }

  // The states that take a character, and the last one, which are reached without taking any.
  #open(from: readonly number[]): readonly number[] {
    if (++this.#step === 0xffffffff) {
      this.#reached.fill(0);
      this.#step = 1;
    }
    const outcome: number[] = [];
    const open = [...from];
    for (let index = open.pop(); index !== undefined; index = open.pop()) {
      if (this.#reached[index] === this.#step) continue;
      this.#reached[index] = this.#step;
      const { test, next } = this.#states[index]!;
      if (test !== undefined || next.length === 0) outcome.push(index);
      else open.push(...next);
    }
    return outcome;
  }

  #isAccepted(current: readonly number[]): boolean {
    return current.includes(this.#states.length - 1);
  }
}

export function makeAutomaton(pieces: readonly Piece[]): Automaton {
  const states: State[] = [];
  addAll(states, pieces);
  states.push({ test: undefined, next: [] });
  return new Automaton(states);
}

// Each piece is entered at the first state it adds, and left to the state that is added next.
function addAll(states: State[], pieces: readonly Piece[]): void {
  for (const piece of pieces) add(states, piece);
}

function add(states: State[], piece: Piece): void {
  switch (piece.kind) {
    case "maybe":
    case "many": {
      const start = states.length;
      const fork = addState(states);
      fork.next.push(states.length);
      addAll(states, piece.of);
      if (piece.kind === "many") addState(states).next.push(start);
      fork.next.push(states.length);
      return;
    }
    case "some": {
      const start = states.length;
      addAll(states, piece.of);
      addState(states).next.push(start, states.length);
      return;
    }
    case "choice": {
      const fork = addState(states);
      const ends: State[] = [];
      for (const one of piece.of) {
        fork.next.push(states.length);
        addAll(states, one);
        ends.push(addState(states));
      }
      for (const end of ends) end.next.push(states.length);
      return;
    }
    default:
      addState(states, testOf(piece)).next.push(states.length);
  }
}

function addState(states: State[], test?: Test): State {
  const state: State = { test, next: [] };
  states.push(state);
  return state;
}

function testOf(
  piece: Extract<Piece, { kind: "character" | "name-character" | "anything" | "class" }>,
): Test {
  switch (piece.kind) {
    case "character":
      return (code) => code === piece.code;
    case "name-character":
      return (code) => code !== SLASH;
    case "anything":
      return () => true;
    case "class": {
      const { ranges, negated } = piece;
      return (code) =>
        code !== SLASH && ranges.some(([low, high]) => code >= low && code <= high) !== negated;
    }
  }
}
