import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { parseAccept } from "../../src/core/fields/accept.js";
import { charsetOf, mediaTypeOf } from "../../src/core/fields/content-type.js";
import { Fields } from "../../src/core/fields/fields.js";
import { formatFieldName, isToken, readWeight, splitMembers } from "../../src/core/fields/grammar.js";

describe("fields", () => {
  const some = Fields.of(
    ["Content-Type", "Content-Disposition", "a"],
    ["Content-Disposition", "inline", "b"],
    ["Vary", "Accept", "c"],
    ["Set-Cookie", "a=1", "d"],
    ["set-cookie", "b=2", "e"],
  );

  test.each<[string, Fields, string[]]>([
    ["append adds a line at the end", some.append("X", "1", ""), [...some.flat, "X", "1"]],
    [
      "replace takes the place of the first line, whatever its case",
      some.replace("SET-COOKIE", "c=3", ""),
      [...some.flat.slice(0, 6), "SET-COOKIE", "c=3"],
    ],
    [
      "replace looks at names, and never at values",
      some.replace("content-disposition", "attachment", ""),
      ["Content-Type", "Content-Disposition", "content-disposition", "attachment", ...some.flat.slice(4)],
    ],
    ["replace adds what is not there", some.replace("X", "1", ""), [...some.flat, "X", "1"]],
    ["remove takes all lines of a name", some.remove("Set-Cookie"), [...some.flat.slice(0, 6)]],
    ["remove of nothing changes nothing", some.remove("Content"), [...some.flat]],
    [
      "concat keeps the order",
      Fields.of(["A", "1", ""]).concat(Fields.NONE, Fields.of(["B", "2", ""])),
      ["A", "1", "B", "2"],
    ],
    [
      "supply knows members of Vary in any case, and with any blanks",
      Fields.of(["Vary", "accept ,\tOrigin", ""]).supply(Fields.of(["Vary", "Accept, ORIGIN", ""])),
      ["Vary", "accept ,\tOrigin"],
    ],
    [
      "supply adds what is lacking, and the members of Vary",
      some.supply(
        Fields.of(
          ["vary", "X", ""],
          ["Vary", "accept, Origin", ""],
          ["content-type", "no", ""],
          ["X", "1", ""],
        ),
      ),
      [...some.flat.slice(0, 4), "Vary", "Accept, Origin", ...some.flat.slice(6), "X", "1"],
    ],
  ])("%s", (_sentence, fields, flat) => {
    expect(fields.flat).toEqual(flat);
  });

  test("are read by name, in any case; several lines are one value (RFC 9110 §5.3); the flat form is frozen, and always the same", () => {
    expect([
      some.get("SET-cookie"),
      some.get("vary"),
      some.get("inline"),
      some.has("VARY"),
      some.has("Content"),
    ]).toEqual(["a=1, b=2", "Accept", undefined, true, false]);
    const { flat } = some;
    expect([
      some.flat === flat,
      Object.isFrozen(some.flat),
      [...some].map(({ because }) => because).join(""),
    ]).toEqual([true, true, "abcde"]);
    const more = Fields.of(["X", "1", ""]);
    expect(some.supply(more)).toBe(some.supply(more));
  });

  test("agree with a list of lines, whatever is done to them", () => {
    const line = fc.record({
      name: fc.constantFrom("A", "a", "B", "b-c", "Vary"),
      value: fc.constantFrom("1", "A", "b-c"),
    });
    fc.assert(
      fc.property(
        fc.array(fc.record({ act: fc.constantFrom("append", "replace", "remove"), line })),
        (steps) => {
          let fields = Fields.NONE;
          let model: { name: string; value: string }[] = [];
          for (const { act, line: one } of steps) {
            const same = (other: { name: string }): boolean =>
              other.name.toLowerCase() === one.name.toLowerCase();
            const at = model.findIndex(same);
            if (act === "append") [fields, model] = [fields.append(one.name, one.value, ""), [...model, one]];
            if (act === "remove")
              [fields, model] = [fields.remove(one.name), model.filter((other) => !same(other))];
            if (act === "replace") {
              fields = fields.replace(one.name, one.value, "");
              const others = model.filter((other) => !same(other));
              model = at < 0 ? [...others, one] : [...others.slice(0, at), one, ...others.slice(at)];
            }
          }
          expect(fields.flat).toEqual(model.flatMap(({ name, value }) => [name, value]));
        },
      ),
    );
  });
});

describe("the grammar that fields share, RFC 9110 §5.6", () => {
  test.each<[string, "," | ";", string[]]>([
    ["a, b ,\tc", ",", ["a", "b", "c"]],
    ['a;b="1;2";c', ";", ["a", 'b="1;2"', "c"]],
    ['"a\\"b, c", d', ",", ['"a\\"b, c"', "d"]],
    ['"no end, a', ",", ['"no end, a']],
    ["", ",", [""]],
    ["a,,b", ",", ["a", "", "b"]],
    ["a\u00a0,\u2003b", ",", ["a\u00a0", "\u2003b"]],
  ])("§5.6.1 %j is split at %j", (text, separator, members) => {
    expect(splitMembers(text, separator)).toEqual(members);
  });

  test("§5.6.1 members that are written are read back, quoted ones whole", () => {
    const member = fc.oneof(
      fc.stringMatching(/^[a-z0-9]{1,6}$/),
      fc.string().map((text) => `"${text.replace(/["\\]/g, "\\$&")}"`),
    );
    fc.assert(
      fc.property(
        fc.array(member, { minLength: 1 }),
        (members) => void expect(splitMembers(members.join(" , "), ",")).toEqual(members),
      ),
    );
  });

  test.each<[string, number | undefined]>([
    ["q=1", 1],
    ["Q=0.125", 0.125],
    ["q=0.", 0],
    ["q=1.000", 1],
    ["q=1.001", undefined],
    ["q=0.1234", undefined],
    ["q=2", undefined],
    ["q=", undefined],
    ["x=1", undefined],
    ["q=1 ", undefined],
  ])("§12.4.2 the weight %j", (parameter, weight) => {
    expect(readWeight(parameter)).toBe(weight);
  });

  test("§5.6.2 a token has no separators; names are written with capitals", () => {
    expect(["X-a.b!#$%&'*+^_`|~9", "", "a b", "a:b", "a/b", "ä", "a\n"].map(isToken)).toEqual([
      true,
      false,
      false,
      false,
      false,
      false,
      false,
    ]);
    expect(["content-type", "etag", "x-b3"].map(formatFieldName)).toEqual(["Content-Type", "ETag", "X-B3"]);
  });

  test("§8.3.1 a content type's parts; §12.5.1 quoted commas and parameters of a range", () => {
    expect([
      mediaTypeOf(" Text/HTML ;charset=x"),
      mediaTypeOf("a/b"),
      charsetOf('a/b; x=1;  CHARSET="Utf 8"'),
      charsetOf("a/b; charset=latin1; y=2"),
      charsetOf("a/b"),
    ]).toEqual(["text/html", "a/b", "Utf 8", "latin1", undefined]);
    expect(parseAccept('text/html;v="a,b;q=0";q=0.5, a/b;q=2, nonsense, */*;q=0')).toEqual([
      { type: "text", subtype: "html", weight: 0.5 },
      { type: "*", subtype: "*", weight: 0 },
    ]);
  });
});
