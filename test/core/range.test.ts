import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { decideRange } from "../../src/core/answer/range.js";
import { parseRange } from "../../src/core/fields/range.js";

const decide = (value: string, size: number): string => {
  const verdict = decideRange(value, size);
  return verdict.outcome === "partial"
    ? verdict.ranges.map(({ first, last }) => `${first}-${last}`).join(",")
    : verdict.outcome;
};

describe("RFC 9110 §14", () => {
  test.each([
    ["§14.1.2 the first bytes", "bytes=0-4", 10, "0-4"],
    ["§14.1.2 one byte", "bytes=3-3", 10, "3-3"],
    ["§14.1.2 an open end", "bytes=6-", 10, "6-9"],
    ["§14.1.2 all of it", "bytes=0-", 10, "0-9"],
    ["§14.1.2 a suffix", "bytes=-3", 10, "7-9"],
    ["§14.1.2 a suffix longer than the file is the whole file", "bytes=-20", 10, "0-9"],
    ["§14.1.2 a last position behind the end is the end", "bytes=5-99", 10, "5-9"],
    ["§14.1.2 a first position behind the end", "bytes=10-", 10, "unsatisfiable"],
    ["§14.1.2 a suffix of nothing", "bytes=-0", 10, "unsatisfiable"],
    ["§14.1.1 a last position before the first is malformed", "bytes=5-3", 10, "whole"],
    ["§14.2 another unit is ignored", "lines=0-3", 10, "whole"],
    ["§14.2 malformed: no positions", "bytes=-", 10, "whole"],
    ["§14.2 malformed: nothing", "bytes=", 10, "whole"],
    ["§14.2 malformed: letters", "bytes=a-b", 10, "whole"],
    ["§14.2 malformed: one of several", "bytes=0-1,x", 10, "whole"],
    ["§14.2 malformed: a sign", "bytes=+1-2", 10, "whole"],
    ["§14.1 a unit has no case", "Bytes=0-1", 10, "0-1"],
    ["§5.6.1 blanks around list elements", "bytes= 0-1 , 4-5", 10, "0-1,4-5"],
    ["§5.6.1 empty list elements", "bytes=,0-1,,", 10, "0-1"],
    ["§14.1.2 several", "bytes=0-1,4-5,-2", 10, "0-1,4-5,8-9"],
    ["§14.1.2 in the order they were asked for", "bytes=8-9,0-1", 10, "8-9,0-1"],
    ["§15.3.7.2 what cannot be satisfied is left out", "bytes=0-1,50-60", 10, "0-1"],
    ["§15.5.17 none can be satisfied", "bytes=20-,30-40", 10, "unsatisfiable"],
    ["§14.2 overlapping ranges: the whole", "bytes=0-5,3-8", 10, "whole"],
    ["§14.2 ranges that share one byte: the whole", "bytes=0-5,5-8", 10, "whole"],
    ["§14.2 ranges that touch do not overlap", "bytes=0-4,5-8", 10, "0-4,5-8"],
    ["§14.2 ranges that share a byte, in another order", "bytes=7-9,0-1,1-2", 10, "whole"],
    ["§14.2 one range twice: the whole", "bytes=0-1,0-1", 10, "whole"],
    [
      "§17.15 more ranges than anyone needs: the whole",
      `bytes=${Array.from({ length: 65 }, (_, i) => `${i * 2}-${i * 2}`)}`,
      99,
      "whole",
    ],
    [
      "as many as anyone may need",
      `bytes=${Array.from({ length: 64 }, (_, i) => `${i * 2}-${i * 2}`)}`,
      199,
      Array.from({ length: 64 }, (_, i) => `${i * 2}-${i * 2}`).join(","),
    ],
    ["an empty file has no first byte", "bytes=0-", 0, "unsatisfiable"],
    ["a suffix of an empty file is all of it", "bytes=-5", 0, "whole"],
    ["positions beyond any number", "bytes=0-99999999999999999999999", 10, "0-9"],
    ["a first position beyond any number", "bytes=99999999999999999999999-", 10, "unsatisfiable"],
  ])("%s", (_sentence, value, size, expected) => {
    expect(decide(value, size)).toBe(expected);
  });

  test("any field is decided without throwing, and never beyond the file", () => {
    const field = fc.oneof(fc.string({ unit: "binary" }), fc.stringMatching(/^bytes=[0-9,-]{0,20}$/));
    fc.assert(
      fc.property(field, fc.nat(100), (value, size) => {
        const verdict = decideRange(value, size);
        if (verdict.outcome !== "partial") return;
        for (const { first, last } of verdict.ranges)
          expect(first <= last && last < size && first >= 0).toBe(true);
      }),
    );
  });

  test("agrees with a slow model that picks the bytes one by one", () => {
    const position = fc.option(fc.nat(14), { nil: undefined });
    const spec = fc.tuple(position, position).filter(([a, b]) => a !== undefined || b !== undefined);
    fc.assert(
      fc.property(spec, fc.nat(12), ([a, b], size) => {
        const picked = Array.from({ length: size }, (_, i) => i).filter((i) =>
          a === undefined ? i >= size - b! : i >= a && (b === undefined || i <= b),
        );
        const malformed = a !== undefined && b !== undefined && b < a;
        const suffixOfNothing = size === 0 && a === undefined && b! > 0;
        const expected =
          malformed || suffixOfNothing
            ? "whole"
            : picked.length === 0
              ? "unsatisfiable"
              : `${picked[0]}-${picked.at(-1)}`;
        expect(decide(`bytes=${a ?? ""}-${b ?? ""}`, size)).toBe(expected);
      }),
    );
  });

  test("a set that is written is read back", () => {
    const one = fc.oneof(
      fc.record({ from: fc.constant("end" as const), length: fc.nat() }),
      fc
        .tuple(fc.nat(), fc.nat())
        .map(([first, more]) => ({ from: "start" as const, first, last: first + more })),
    );
    fc.assert(
      fc.property(fc.array(one, { minLength: 1 }), (specs) => {
        const written = specs
          .map((s) => (s.from === "end" ? `-${s.length}` : `${s.first}-${s.last}`))
          .join(", ");
        expect(parseRange(`bytes=${written}`)).toEqual(specs);
      }),
    );
  });
});
