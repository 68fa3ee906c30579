import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evaluatePreconditions } from "../../src/core/answer/preconditions.js";
import { parseTagList } from "../../src/core/fields/entity-tag.js";
import { formatHttpDate, parseHttpDate } from "../../src/core/fields/http-date.js";

const NOW = Date.UTC(2026, 10, 25) / 1000;
const MODIFIED = Date.UTC(2026, 9, 1, 12, 0, 0) / 1000;
const [BEFORE, SAME, AFTER] = [MODIFIED - 1, MODIFIED, MODIFIED + 1].map(formatHttpDate) as [
  string,
  string,
  string,
];

const verdict = (headers: Record<string, string>, weak = false): string => {
  const result = evaluatePreconditions(
    headers,
    { tag: { weak, opaque: '"a1"' }, lastModifiedSeconds: MODIFIED },
    NOW,
  );
  if (result.outcome === "proceed") return "200";
  // The field that decided is one of the request's, and is told.
  return Object.keys(headers).includes(result.field)
    ? { failed: "412", "not-modified": "304" }[result.outcome]
    : `${result.outcome} for ${result.field}`;
};

describe("RFC 9110 §13", () => {
  test.each<[string, Record<string, string>, string]>([
    ["no precondition", {}, "200"],
    ["§13.1.2 the same tag", { "if-none-match": '"a1"' }, "304"],
    ["§13.1.2 another tag", { "if-none-match": '"b2"' }, "200"],
    ["§13.1.2 compared weakly", { "if-none-match": 'W/"a1"' }, "304"],
    ["§13.1.2 one of a list", { "if-none-match": '"x", W/"y" ,"a1"' }, "304"],
    ["§13.1.2 what is behind a fault is none of the list", { "if-none-match": '"x" "a1"' }, "200"],
    ["§13.1.2 any", { "if-none-match": "*" }, "304"],
    ["§13.1.2 any, with blanks around it", { "if-none-match": " *\t" }, "304"],
    ["§13.1.2 a star in a list is no tag", { "if-none-match": '*, "b2"' }, "200"],
    ["§13.1.2 a comma inside a tag is part of it", { "if-none-match": '"x,", "a1"' }, "304"],
    ["§13.1.2 a tag without quotes is none", { "if-none-match": "a1" }, "200"],
    ["§13.1.2 a lower-case w is no weakness", { "if-none-match": 'w/"a1"' }, "200"],
    ["§5.6.1 empty list elements are skipped", { "if-none-match": ', ,"a1",' }, "304"],
    ["§13.1.3 unchanged since", { "if-modified-since": SAME }, "304"],
    ["§13.1.3 a later date", { "if-modified-since": AFTER }, "304"],
    ["§13.1.3 changed since", { "if-modified-since": BEFORE }, "200"],
    ["§13.1.3 a date that cannot be read is ignored", { "if-modified-since": "yesterday" }, "200"],
    ["§13.1.3 ignored beside If-None-Match", { "if-none-match": '"b2"', "if-modified-since": SAME }, "200"],
    ["§13.1.1 the same tag", { "if-match": '"a1"' }, "200"],
    ["§13.1.1 any", { "if-match": "*" }, "200"],
    ["§13.1.1 another tag", { "if-match": '"b2"' }, "412"],
    ["§13.1.1 compared strongly", { "if-match": 'W/"a1"' }, "412"],
    ["§13.1.1 malformed never matches", { "if-match": "a1" }, "412"],
    ["§13.1.4 unchanged since", { "if-unmodified-since": SAME }, "200"],
    ["§13.1.4 changed since", { "if-unmodified-since": BEFORE }, "412"],
    ["§13.1.4 a date that cannot be read is ignored", { "if-unmodified-since": "0" }, "200"],
    ["§13.1.4 ignored beside If-Match", { "if-match": '"a1"', "if-unmodified-since": BEFORE }, "200"],
    ["§13.2.2 step 1 comes before step 3", { "if-match": '"b2"', "if-none-match": '"a1"' }, "412"],
    ["§13.2.2 step 2 comes before step 3", { "if-unmodified-since": BEFORE, "if-none-match": '"a1"' }, "412"],
    ["§13.2.2 step 1 holds, step 3 decides", { "if-match": '"a1"', "if-none-match": '"a1"' }, "304"],
  ])("%s", (_sentence, headers, expected) => {
    expect(verdict(headers)).toBe(expected);
  });

  test("§13.1.3, §13.1.4 where no date is known, conditions about one are ignored", () => {
    const withoutDate = (headers: Record<string, string>) =>
      evaluatePreconditions(
        headers,
        { tag: { weak: false, opaque: '"a1"' }, lastModifiedSeconds: undefined },
        NOW,
      );
    for (const [name, value] of [
      ["if-modified-since", AFTER],
      ["if-unmodified-since", BEFORE],
    ] as const)
      expect(withoutDate({ [name]: value })).toEqual({ outcome: "proceed" });
    expect(withoutDate({ "if-none-match": '"a1"' })).toEqual({
      outcome: "not-modified",
      field: "if-none-match",
    });
  });

  test("§8.8.3.2 a weak validator matches weakly and never strongly", () => {
    expect(verdict({ "if-none-match": '"a1"' }, true)).toBe("304");
    expect(verdict({ "if-match": '"a1"' }, true)).toBe("412");
  });
});

describe("RFC 9110 §5.6.7, a date", () => {
  const CASE = Date.UTC(1994, 10, 6, 8, 49, 37) / 1000;
  test.each<[string, string, number | undefined]>([
    ["IMF-fixdate", "Sun, 06 Nov 1994 08:49:37 GMT", CASE],
    ["RFC 850", "Sunday, 06-Nov-94 08:49:37 GMT", CASE],
    ["a day that there is not", "Foo, 06 Nov 1994 08:49:37 GMT", undefined],
    ["a month that there is not", "Sun, 06 Foo 1994 08:49:37 GMT", undefined],
    ["RFC 850, a day that there is not", "Foosday, 06-Nov-94 08:49:37 GMT", undefined],
    ["asctime", "Sun Nov  6 08:49:37 1994", CASE],
    ["RFC 850, a year 50 ahead", "Wednesday, 01-Jan-76 00:00:00 GMT", Date.UTC(2076, 0, 1) / 1000],
    ["RFC 850, a year more than 50 ahead lies in the past", "Saturday, 01-Jan-77 00:00:00 GMT", 220924800],
    [
      "a leap second counts as the second before",
      "Sat, 31 Dec 2016 23:59:60 GMT",
      Date.UTC(2016, 11, 31, 23, 59, 59) / 1000,
    ],
    ["another zone", "Sun, 06 Nov 1994 08:49:37 CET", undefined],
    ["a day the month does not have", "Sun, 31 Feb 2026 08:49:37 GMT", undefined],
    ["an hour the day does not have", "Sun, 06 Nov 1994 24:00:00 GMT", undefined],
    ["one digit for the day", "Sun, 6 Nov 1994 08:49:37 GMT", undefined],
    ["ISO 8601", "1994-11-06T08:49:37Z", undefined],
    ["nothing", "", undefined],
  ])("%s", (_sentence, text, expected) => {
    expect(parseHttpDate(text, NOW)).toBe(expected);
  });

  test("any text is read or refused, and what is written is read back", () => {
    fc.assert(fc.property(fc.string({ unit: "binary" }), (text) => void parseHttpDate(text, NOW)));
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 253_402_300_799 }), (seconds) => {
        expect(parseHttpDate(formatHttpDate(seconds), NOW)).toBe(seconds);
      }),
    );
  });
});

test("any field is read without throwing, and a list that is written is read back", () => {
  fc.assert(fc.property(fc.string({ unit: "binary" }), (text) => void parseTagList(text)));
  const tag = fc.record({ weak: fc.boolean(), opaque: fc.stringMatching(/^"[!#-~]*"$/) });
  fc.assert(
    fc.property(fc.array(tag), (tags) => {
      const written = tags.map(({ weak, opaque }) => (weak ? `W/${opaque}` : opaque)).join(" , ");
      expect(parseTagList(written)).toEqual(tags);
    }),
  );
});
