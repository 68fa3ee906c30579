import { EventEmitter } from "node:events";
import { setImmediate as later } from "node:timers/promises";
import fc from "fast-check";
import { expect, test } from "vitest";
import { type Connection, type Turn, takeTurn } from "../src/adapters/turns.js";

// The requests of one connection have their turn, so many at a time and in their order.
class Line extends EventEmitter {
  destroyed = false;
  readonly started: string[] = [];
  readonly #ends = new Map<string, () => void>();
  readonly turns = new Map<string, Turn>();

  take(name: string, width: number, request: object = {}, isTold = false): void {
    takeTurn([this as unknown as Connection, width], { request, isTold }, (turn) => {
      this.started.push(name);
      this.turns.set(name, turn);
      return new Promise<void>((done) => this.#ends.set(name, done));
    });
  }

  async end(name: string): Promise<void> {
    this.#ends.get(name)!();
    await later();
  }
}

test("so many at a time, the others in their order as one of them ends", async () => {
  const line = new Line();
  for (const name of ["a", "b", "c", "d", "e"]) line.take(name, 2);
  const seen = [line.started.join("")];
  for (const name of ["b", "a", "c", "d", "e"]) {
    await line.end(name);
    seen.push(line.started.join(""));
  }
  line.take("f", 2);
  expect([...seen, line.started.join("")]).toEqual([
    "ab",
    "abc",
    "abcd",
    "abcde",
    "abcde",
    "abcde",
    "abcdef",
  ]);
});

test("a request that is passed on keeps its place: it goes before those behind it, and waits for nobody but itself", async () => {
  const line = new Line();
  const [first, second] = [{}, {}];
  line.take("first", 1, first);
  line.take("second", 1, second);
  line.take("third", 1);
  // The host's next handler, while the first one is in progress: when that has ended.
  line.take("first again", 1, first);
  expect(line.started).toEqual(["first"]);
  await line.end("first");
  expect(line.started).toEqual(["first", "first again"]);
  await line.end("first again");
  await line.end("second");
  expect(line.started.at(-1)).toBe("third");
  // Those in progress wait for the one before all of them, which has room at once.
  line.take("second again", 1, second);
  expect(line.started.at(-1)).toBe("second again");
});

test("when the connection ends, those in progress hear of it, and those that wait are dropped, but for those of which somebody is told", async () => {
  const line = new Line();
  for (const name of ["a", "b", "c", "d", "told"]) line.take(name, 2, {}, name === "told");
  const heard: string[] = [];
  for (const name of ["a", "b"]) line.turns.get(name)!.whenGone(() => heard.push(name));
  await line.end("a");
  line.turns.get("b")!.whenGone(() => heard.push("b, as said last"));
  line.destroyed = true;
  line.emit("close");
  expect(heard).toEqual(["b, as said last"]);
  for (const name of ["b", "c", "told"]) await line.end(name);
  line.take("late", 2);
  line.take("later", 2);
  line.take("too late", 2);
  line.take("told too", 2, {}, true);
  await line.end("late");
  expect(line.started).toEqual(["a", "b", "c", "told", "late", "later", "told too"]);
});

test("without a connection nobody waits", () => {
  let started = 0;
  for (let i = 0; i < 3; i++) takeTurn([undefined, 1], { request: {} }, async () => void started++);
  expect(started).toBe(3);
});

test("whatever ends first, everybody has a turn once, and never more at a time than there may be", async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 4 }),
      fc.array(fc.nat(5), { minLength: 1, maxLength: 12 }),
      async (width, choices) => {
        const line = new Line();
        for (let i = 0; i < choices.length; i++) line.take(String(i), width);
        const ended = new Set<string>();
        for (const choice of choices) {
          const underWay = line.started.filter((name) => !ended.has(name));
          expect(underWay.length).toBe(Math.min(width, choices.length - ended.size));
          const name = underWay[choice % underWay.length]!;
          ended.add(name);
          await line.end(name);
        }
        expect(line.started).toEqual(choices.map((_, i) => String(i)));
      },
    ),
    { numRuns: 30 },
  );
});
