import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { givenNames } from "../../banks/names/given.mjs";
import { ALPHABETS, drawFrom, LENGTHS, makeFolder, SEPARATORS } from "../../banks/names/made.mjs";
import { parseDuration } from "../../src/config/durations.js";
import { parseAcceptEncoding } from "../../src/core/fields/accept-encoding.js";
import { formatAttachment } from "../../src/core/fields/disposition.js";
import { rankCodings } from "../../src/core/represent/coding.js";
import { AddressNames } from "../../src/reading/builds/by-address.js";

describe("RFC 9110 §12.5.3, Accept-Encoding", () => {
  test.each([
    ["nothing sent", undefined, ""],
    ["an empty field: as it is", "", ""],
    ["what browsers send", "gzip, deflate, br, zstd", "br gzip"],
    ["gzip alone", "gzip", "gzip"],
    ["x-gzip is gzip", "x-gzip", "gzip"],
    ["a coding has no case", "GZIP", "gzip"],
    ["weights decide", "br;q=0.5, gzip;q=0.8", "gzip br"],
    ["refused", "br;q=0, gzip", "gzip"],
    ["anything", "*", "br gzip"],
    ["anything but", "*, br;q=0", "gzip"],
    ["nothing but", "*;q=0, br", "br"],
    ["identity wanted more", "identity, gzip;q=0.5", ""],
    ["identity wanted less", "identity;q=0.5, gzip;q=0.8", "gzip"],
    ["identity refused", "identity;q=0, gzip;q=0.1", "gzip"],
    ["all refused: as it is", "identity;q=0, *;q=0", ""],
    ["a coding nobody has", "compress", ""],
    ["a malformed weight is left out", "br;q=2, gzip;q=1.000", "gzip"],
    ["a weight of four digits is malformed", "br;q=0.1234", ""],
    ["blanks around it", " gzip ; q=0.9 ", "gzip"],
  ])("%s", (_sentence, accept, expected) => {
    expect(rankCodings(accept, ["br", "gzip"]).join(" ")).toBe(expected);
  });

  test("any field is read without throwing, and what is refused is never chosen", () => {
    fc.assert(fc.property(fc.string({ unit: "binary" }), (text) => void rankCodings(text, ["br", "gzip"])));
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom("br", "gzip", "*", "identity"), fc.nat(10))),
        (entries) => {
          const field = entries.map(([name, tenths]) => `${name};q=${tenths / 10}`).join(",");
          const weights = parseAcceptEncoding(field);
          for (const coding of rankCodings(field, ["br", "gzip"]))
            expect(weights.get(coding) ?? weights.get("*")).toBeGreaterThan(0);
        },
      ),
    );
  });
});

describe("RFC 6266 and 8187, a name to save under", () => {
  test.each([
    ["a plain name", "sightings.csv", 'attachment; filename="sightings.csv"'],
    ["a blank", "Season report.pdf", 'attachment; filename="Season report.pdf"'],
    ["a path is left out", "records/2026/a.csv", 'attachment; filename="a.csv"'],
    [
      "letters beyond ASCII",
      "Óðinshani.csv",
      "attachment; filename=\"O_inshani.csv\"; filename*=UTF-8''%C3%93%C3%B0inshani.csv",
    ],
    ["an accent folds away", "é.txt", "attachment; filename=\"e.txt\"; filename*=UTF-8''%C3%A9.txt"],
    ["quotes", 'a"b.txt', "attachment; filename=\"a_b.txt\"; filename*=UTF-8''a%22b.txt"],
    ["a backslash", "a\\b.txt", "attachment; filename=\"a_b.txt\"; filename*=UTF-8''a%5Cb.txt"],
    [
      "a percent sign is no escape",
      "100%41.txt",
      "attachment; filename=\"100_41.txt\"; filename*=UTF-8''100%2541.txt",
    ],
    [
      "a newline cannot begin a field",
      "a\r\nX: y",
      "attachment; filename=\"a__X: y\"; filename*=UTF-8''a%0D%0AX%3A%20y",
    ],
    ["an apostrophe and a bracket", "it's (1)*.txt", 'attachment; filename="it\'s (1)*.txt"'],
    ["a lone surrogate", "a\ud800.txt", "attachment; filename=\"a_.txt\"; filename*=UTF-8''a%EF%BF%BD.txt"],
    [
      "a letter beyond the first plane",
      "𐐷.txt",
      "attachment; filename=\"_.txt\"; filename*=UTF-8''%F0%90%90%B7.txt",
    ],
  ])("%s", (_sentence, name, expected) => {
    expect(formatAttachment(name)).toBe(expected);
  });

  test("any name gives one line of ASCII, and the full name can be read back", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", minLength: 1 }), (name) => {
        const field = formatAttachment(name);
        expect(field).toMatch(
          /^attachment; filename="[\x20-\x7e]*"(; filename\*=UTF-8''[A-Za-z0-9!#$&+\-.^_`|~%]*)?$/,
        );
        const full = /filename\*=UTF-8''(.*)$/.exec(field)?.[1];
        if (full !== undefined)
          expect(decodeURIComponent(full)).toBe(name.slice(name.lastIndexOf("/") + 1).toWellFormed());
      }),
    );
  });
});

describe("a fingerprint in a name", () => {
  const fingerprinted = (names: readonly string[], asked = names): string[] => {
    const known = new AddressNames(names.map((name) => `/a/${name}`));
    return asked.filter((name) => known.has(`/a/${name}`));
  };
  const draw = drawFrom(20_261_201);
  const schemes = Object.keys(ALPHABETS).flatMap((alphabet) =>
    SEPARATORS.map((separator) => [alphabet, separator] as const),
  );

  test.each(schemes)(
    "%s behind %j: all of 500 in a folder, and 99 of 100 in folders of four",
    (alphabet, separator) => {
      let found = 0;
      let made = 0;
      for (const length of LENGTHS) {
        const folder = makeFolder(alphabet, length, separator, 500, draw);
        expect(fingerprinted(folder)).toEqual(folder);
        for (let i = 0; i < 50; i++) {
          const few = makeFolder(alphabet, length, separator, 4, draw);
          found += fingerprinted(few).length;
          made += few.length;
        }
      }
      expect(found / made).toBeGreaterThan(0.99);
    },
  );

  test("none of 5,000 names that people give, in one folder and in folders of several sizes", () => {
    const given = givenNames(5000, draw);
    const sizes = [1, 4, 25, 200, given.length];
    const taken = sizes.flatMap((size) =>
      Array.from({ length: Math.floor(given.length / size) }, (_, i) =>
        fingerprinted(given.slice(i * size, (i + 1) * size)),
      ).flat(),
    );
    expect(taken).toEqual([]);
  });

  // Beyond doubt: nothing lies beside it.
  test.each<[string, string]>([
    [
      "app.5f3a91bc.js app-5f3a91bc.js.br app.5f3a91bc.min.js main.0123abcd4567ef89.css chunk-4NVF7MPA.js",
      "all",
    ],
    [
      "5f3a91bc7d2e4f60.js runtime.8f14e45fceea167a5a36dedd4bea2543.js vendor.3c59dc048e8850243be8.js.map",
      "all",
    ],
    [
      "index.html app.js index-HomePage.js lib-1.24.0.js season.20261125.csv iPhone15Pro.jpg report-Q3final2.pdf RFC9110bis.txt",
      "none",
    ],
    [
      "deadbeef.txt facade-feedface.txt notes-SEASON26.pdf .5f3a91bc v.DjX9hgGb 5f3a91bc view-sunshine.jpg page-5f3a91bc.html",
      "none",
    ],
  ])("alone in a folder: %s: %s", (names, expected) => {
    const all = names.split(" ");
    expect(all.filter((name) => fingerprinted([name]).length > 0)).toEqual(expected === "all" ? all : []);
  });

  test("a build's odd ones are as the others of their folder, and what people put there is not", () => {
    const built =
      "index-DVXNDFMC.js index-Dct7elz_.css About-BGHzbpMo.js hide-DlQxmPfI.png call-Dwc4t-DK.wav".split(" ");
    expect(fingerprinted([...built, "photo-20261125.jpg", "robots.txt"])).toEqual(built);
  });

  test("any names are judged without throwing, and a name that was judged once is judged so again", () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: "binary" })), (names) => {
        expect(fingerprinted(names)).toEqual(fingerprinted([...names, ...names], names));
      }),
    );
  });
});

describe("a duration", () => {
  test.each<[string | number, number | undefined]>([
    ["90s", 90],
    ["10m", 600],
    ["1h", 3600],
    ["1h30m", 5400],
    ["7d", 604_800],
    ["2w", 1_209_600],
    ["1y", 31_536_000],
    ["1y2w3d4h5m6s", 33_019_506],
    ["0", 0],
    ["600", 600],
    [600, 600],
    [0, 0],
    [" 5m ", 300],
    ["", undefined],
    ["10", 10],
    ["10 m", undefined],
    ["1.5h", undefined],
    ["m", undefined],
    ["-1s", undefined],
    [-1, undefined],
    [1.5, undefined],
    [Number.NaN, undefined],
    ["30m1h", undefined],
    ["1month", undefined],
    ["10M", undefined],
    ["9".repeat(30), undefined],
    ["999999999999y", undefined],
  ])("%j is %j seconds", (written, expected) => {
    expect(parseDuration(written)).toBe(expected);
  });

  test("any text is read or refused, and a duration that is written is read back", () => {
    fc.assert(fc.property(fc.string({ unit: "binary" }), (text) => void parseDuration(text)));
    const counts = fc.tuple(fc.nat(99), fc.nat(99), fc.nat(99), fc.nat(99), fc.nat(99), fc.nat(99));
    fc.assert(
      fc.property(counts, ([y, w, d, h, m, s]) => {
        const seconds = ((y * 365 + w * 7 + d) * 24 + h) * 3600 + m * 60 + s;
        expect(parseDuration(`${y}y${w}w${d}d${h}h${m}m${s}s`)).toBe(seconds);
      }),
    );
  });
});
