import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { formatDuration, parseSpokenDuration } from "../../src/config/durations.js";
import { parseCacheControl } from "../../src/core/fields/cache-control.js";
import { readPage } from "../../src/reading/pages/page.js";
import { findReferences, findReferencesIn } from "../../src/reading/pages/references.js";
import { atOnce } from "../../src/reading/slices.js";
import { type AcceptedFailure, makeBaseline } from "../../src/testing/accepted.js";
import { parseCachingPhrase } from "../../src/testing/checks/caching.js";
import { markDifference } from "../../src/testing/checks/check.js";
import { readDigest } from "../../src/testing/checks/digest.js";
import { resolveRange } from "../../src/testing/checks/follow-ups.js";
import { findJsonDifference } from "../../src/testing/checks/json-subset.js";
import { readBoundary, readParts } from "../../src/testing/checks/parts.js";
import type { Expectation, JsonExpectation } from "../../src/testing/format/schema-expectation.js";
import { type Answered, type CaseResult, findUnmet } from "../../src/testing/index.js";
import { type Counts, speakCounts } from "../../src/testing/reports/run.js";

const answer = (
  status: number,
  headers: Record<string, string> = {},
  body: string | Uint8Array = "",
  path = "/guide/",
): Answered => {
  const bytes = typeof body === "string" ? new TextEncoder().encode(body) : body;
  const plain = {
    mediaType: undefined,
    text: undefined,
    file: undefined,
    why: undefined,
    trace: undefined,
    hints: [],
    inside: undefined,
  };
  return {
    ...plain,
    status,
    headers,
    body: bytes,
    question: { method: "GET", path, headers: {} },
    address: "http://larkholm.invalid/birds",
  };
};
const HTML = {
  "content-type": 'Text/HTML; charset="UTF-8"',
  vary: 'Accept-Encoding, Origin, "a, b"',
  "cache-control": "max-age=60",
};
const BOMB = brotliCompressSync(Buffer.alloc(64 * 1024 * 1024 + 1), {
  params: { [constants.BROTLI_PARAM_QUALITY]: 3 },
});
const part = (range: string, text: string): string => `--x\r\nContent-Range: ${range}\r\n\r\n${text}\r\n`;
const PARTS = answer(
  206,
  { "content-type": "multipart/byteranges; boundary=x" },
  `${part("bytes 0-3/9", "hero")}${part("bytes 7-8/9", "on")}--x--\r\n`,
);
const JSON_BODY = '{"season":2026,"birds":[{"name":"Curlew","count":3}],"open":null}';

describe("what an answer is held against", () => {
  test.each<[string, Answered, Expectation, string[]]>([
    ["a status", answer(200), { status: 404 }, ["status: 404 / 200"]],
    ["one of several statuses", answer(200), { status: [200, 304] }, []],
    [
      "a redirect shows where it leads when none was expected",
      answer(302, { location: "/x" }),
      { status: 200 },
      ["status: 200 / 302, to /x"],
    ],
    [
      "a media type, whatever its case and parameters",
      answer(200, HTML),
      { mediaType: "text/html", charset: "utf-8" },
      [],
    ],
    [
      "no media type",
      answer(200),
      { mediaType: "text/html", charset: "utf-8" },
      ["media type: text/html / nothing", "charset: utf-8 / nothing"],
    ],
    [
      "an exact field",
      answer(200, HTML),
      { headers: { VARY: "Accept" } },
      ['VARY: Accept / Accept-Encoding, Origin, "a, b"'],
    ],
    [
      "a field that is there, or not",
      answer(200, HTML),
      { headers: { Vary: { present: false }, ETag: { present: true } } },
      ['Vary: nothing / Accept-Encoding, Origin, "a, b"', "ETag: any value / nothing"],
    ],
    [
      "no match",
      answer(200, HTML),
      { headers: { "Cache-Control": { matches: "^no" }, Vary: { matchesNot: "^no" } } },
      ["Cache-Control: a match of /^no/ / max-age=60"],
    ],
    [
      "a match",
      answer(200, HTML),
      { headers: { "Cache-Control": { matches: "^max-age=\\d+$" }, ETag: { matches: "." } } },
      ["ETag: a match of /./ / nothing"],
    ],
    [
      "members of a list, quoted ones whole",
      answer(200, HTML),
      { headers: { Vary: { lists: ["origin", '"a, b"', "Cookie"], listsNot: ["accept-encoding", "a"] } } },
      [
        'Vary: a list with Cookie / Accept-Encoding, Origin, "a, b"',
        'Vary: a list without accept-encoding / Accept-Encoding, Origin, "a, b"',
      ],
    ],
    [
      "a relative redirect, resolved against the address under its prefix",
      answer(301, { location: "./waders/?from=mail" }, "", "/guide/waders"),
      { redirect: "/guide/waders/?from=mail" },
      [],
    ],
    [
      "a relative redirect that leads elsewhere",
      answer(301, { location: "waders" }, "", "/guide/waders/"),
      { redirect: "/guide/waders" },
      ["redirect: /guide/waders / /guide/waders/waders (Location: waders)"],
    ],
    [
      "a redirect to the same address written whole",
      answer(301, { location: "http://larkholm.invalid/birds/visit" }),
      { redirect: "/visit" },
      [],
    ],
    [
      "a redirect elsewhere",
      answer(307, { location: "https://other.invalid/" }),
      { redirect: "/visit" },
      ["redirect: /visit / https://other.invalid/"],
    ],
    [
      "a redirect without Location, and no redirect",
      answer(204),
      { redirect: "/visit" },
      ["status: a redirect (301, 302, 303, 307 or 308) / 204", "redirect: /visit / 204 without a Location"],
    ],
    [
      "a coding",
      answer(200, { "content-encoding": "gzip" }, gzipSync("text")),
      { coding: ["br", "none"], body: { contains: "text", length: 4 } },
      ["coding: br or none / gzip"],
    ],
    [
      "a coding that the body is not in",
      answer(200, { "content-encoding": "br" }, "text"),
      { body: { contains: "text" } },
      ['body: a text with "text" / a body that is not in the coding br, which Content-Encoding names'],
    ],
    [
      "a body that stands for very much",
      answer(200, { "content-encoding": "br" }, BOMB),
      { coding: "br", body: { contains: "text" } },
      [
        `body: a text with "text" / ${BOMB.length} bytes in the coding br that decode to more than 64 MiB, the limit for an answer`,
      ],
    ],
    [
      "a pattern that a text keeps busy",
      answer(200, { "x-a": `${"a".repeat(60)}!` }, `${"a".repeat(60)}!`),
      { headers: { "X-A": { matches: "^(a+)+$" } }, body: { matches: "^(a|a)*$" } },
      [
        expect.stringMatching(
          /^X-A: a match of .* \/ a search that was stopped after 1 second: the pattern goes over the text again and again; /,
        ) as unknown as string,
        expect.stringMatching(
          /^body: a match of .* \/ a search that was stopped after 1 second/,
        ) as unknown as string,
      ],
    ],
    [
      "a coding that nobody knows",
      answer(200, { "content-encoding": "feathers" }, "text"),
      { body: { empty: false } },
      ["body: a body that is not empty / a body in the coding feathers, which cannot be decoded here"],
    ],
    [
      "an empty body",
      answer(200, HTML, "x"),
      { body: { empty: true } },
      ['body: an empty body / "x" (1 bytes)'],
    ],
    [
      "a body of a length",
      answer(200, { "content-type": "image/png" }, "x".repeat(1234)),
      { body: { length: 7 } },
      ["body: 7 bytes / 1,234 bytes"],
    ],
    [
      "texts it has, and has not",
      answer(200, HTML, "a curlew"),
      { body: { contains: ["curlew", "owl"], lacks: "curlew", matches: "^A" } },
      [
        'body: a text with "owl" / "a curlew" (8 bytes)',
        'body: a text without "curlew" / it in "a curlew"',
        'body: a match of /^A/ / "a curlew" (8 bytes)',
      ],
    ],
    [
      "a text that is forbidden, with what stands around it",
      answer(200, HTML, `${"a".repeat(40)} owl\n${"b".repeat(40)}`),
      { body: { lacks: "owl" } },
      [`body: a text without "owl" / it in "…${"a".repeat(23)} owl ${"b".repeat(23)}…"`],
    ],
    [
      "a charset that nobody knows",
      answer(200, { "content-type": "text/plain; charset=feathers" }, "é"),
      { body: { contains: "é" } },
      [],
    ],
    [
      "a digest that is as it should be",
      answer(200, {}, ""),
      { body: { digest: "sha-256=e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855" } },
      [],
    ],
    [
      "a long text word for word",
      answer(200, HTML, "curlew ".repeat(60)),
      { body: { equals: "curlew" } },
      [`body: "curlew" / "${"curlew ".repeat(12).slice(0, 79)}…" (420 bytes)`],
    ],
    [
      "caching in words that do not hold",
      answer(200, { expires: "Fri, 01 Jan 2100 00:00:00 GMT", date: "Thu, 31 Dec 2099 00:00:00 GMT" }),
      { caching: "not transformed" },
      ["caching: not transformed / fresh for 1 day (Expires: Fri, 01 Jan 2100 00:00:00 GMT)"],
    ],
    [
      "a lifetime for shared caches that nothing says",
      answer(200),
      { caching: "shared for at least 1 hour" },
      ["caching: shared for at least 1 hour / without a lifetime for shared caches (Cache-Control: none)"],
    ],
    [
      "a lifetime for shared caches",
      answer(200, { "cache-control": "max-age=60, s-maxage=7200" }),
      { caching: "shared for at least 1 hour" },
      [],
    ],
    [
      "a lifetime for shared caches that is too short",
      answer(200, { "cache-control": "max-age=7200, s-maxage=60" }),
      { caching: "shared for at least 1 hour" },
      [
        "caching: shared for at least 1 hour / shared for 1 minute (Cache-Control: max-age=7200, s-maxage=60)",
      ],
    ],
    [
      "a lifetime of everybody's for shared caches",
      answer(200, { "cache-control": "max-age=0" }),
      { caching: "shared for at least 1 hour" },
      ["caching: shared for at least 1 hour / revalidated each time (Cache-Control: max-age=0)"],
    ],
    [
      "no lifetime for shared caches of what is private",
      answer(200, { "cache-control": "private, max-age=7200" }),
      { caching: "shared for at least 1 hour" },
      [
        "caching: shared for at least 1 hour / without a lifetime for shared caches (Cache-Control: private, max-age=7200)",
      ],
    ],
    [
      "the height of a picture alone",
      answer(200, {}, "GIF89a\x03\0\x05\0"),
      { body: { picture: { height: 4 } } },
      ["body: a picture 4 high (pixels) / 3 wide, 5 high"],
    ],
    [
      "the width of a picture alone",
      answer(200, {}, "GIF89a\x03\0\x05\0"),
      { body: { picture: { width: { atLeast: 4 } } } },
      [expect.stringMatching(/^body: a picture .* wide \(pixels\) \/ 3 wide, 5 high$/) as unknown as string],
    ],
    [
      "a text in its charset",
      answer(200, { "content-type": "text/plain; charset=latin1" }, new Uint8Array([0xe9])),
      { body: { contains: "é" } },
      [],
    ],
    [
      "a text word for word",
      answer(200, HTML, "curlew"),
      { body: { equals: "curlews" } },
      ['body: "curlews" / "curlew"'],
    ],
    [
      "a digest in hexadecimal",
      answer(200, {}, "curlew"),
      { body: { digest: `sha-256=${"0".repeat(64)}` } },
      [expect.stringMatching(/^body: sha-256=0{64} \/ sha-256=[0-9a-f]{64}$/) as unknown as string],
    ],
    [
      "a digest as RFC 9530 writes it",
      answer(200, {}, ""),
      { body: { digest: "sha-256=:47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU=:" } },
      [],
    ],
    [
      "the bytes of a file",
      answer(200, {}, "curlew"),
      { body: { file: "test/fixtures/none.txt" } },
      [
        "body: the bytes of test/fixtures/none.txt / a body that cannot be compared: there is no such file at test/fixtures/none.txt; body.file is a path from this file's folder",
      ],
    ],
    [
      "a part of JSON",
      answer(200, {}, JSON_BODY),
      { body: { json: { birds: [{ count: 3 }], open: null } } },
      [],
    ],
    [
      "another part of JSON",
      answer(200, {}, JSON_BODY),
      { body: { json: { birds: [{ count: 4 }] } } },
      ['body: JSON with {"birds":[{"count":4}]} / at $.birds[0].count 3 instead of 4'],
    ],
    [
      "no JSON",
      answer(200, HTML, "<p>"),
      { body: { json: {} } },
      ['body: JSON with {} / a body that is not JSON: "<p>" (3 bytes)'],
    ],
    [
      "an invalid picture",
      answer(200, {}, "text"),
      { body: { picture: { width: 3 } } },
      ['body: a picture 3 wide (pixels) / no picture whose size can be read: "text" (4 bytes)'],
    ],
    [
      "a redirect to what is no address",
      answer(301, { location: "http://[" }),
      { redirect: "/visit" },
      ["redirect: /visit / http://["],
    ],
    [
      "what only the network tells, where it is not known",
      answer(200),
      { httpVersion: "1.1", firstByte: { atMost: "200ms" } },
      ["HTTP version: 1.1 / not known"],
    ],
    [
      "parts of what has none",
      answer(206, HTML, "a"),
      { parts: [{ length: 1 }] },
      ['parts: 1 part of multipart/byteranges / Text/HTML; charset="UTF-8"'],
    ],
    [
      "parts, too few",
      PARTS,
      { parts: [{ length: 4 }, { length: 1 }, { length: 1 }] },
      ["parts: 3 parts of multipart/byteranges / 2", "part 2: 1 bytes / 2 bytes"],
    ],
    [
      "parts that hold other things",
      PARTS,
      { parts: [{ headers: { "Content-Range": "bytes 0-4/9" }, contains: "tern" }, { contains: "on" }] },
      ["part 1: Content-Range: bytes 0-4/9 / bytes 0-3/9", 'part 1: a text with "tern" / 4 bytes without it'],
    ],
    [
      "with another status nothing is said of the body",
      answer(404, HTML, "none"),
      { status: 200, body: { contains: "curlew" } },
      ["status: 200 / 404"],
    ],
  ])("%s", (_sentence, got, expectation, differences) => {
    expect(
      findUnmet(got, expectation).map(({ about, expected, got }) => `${about}: ${expected} / ${got}`),
    ).toEqual(differences);
  });

  test("the file that answers is refused where the network does not tell it", () => {
    expect(() => findUnmet(answer(200), { answeredBy: "/index.html" })).toThrow(
      /^The expectation: found answeredBy, which is only known in process, .*; leave it out, or use a probe of the site itself\.$/,
    );
  });

  test("what only the network tells is refused where it is not asked", () => {
    const inside = {
      file: undefined,
      passedOn: false,
      reason: { code: "exact-file" },
      why: "",
    } as unknown as Answered["inside"];
    expect(() => findUnmet({ ...answer(200), inside }, { httpVersion: "1.1" })).toThrow(
      /^The expectation: found one of the HTTP version, which is only known over the network, .*; leave it out, or use a probe of a server\.$/,
    );
  });

  test("an expectation that is none says what to write", () => {
    expect(() => findUnmet(answer(200), { stauts: 200 } as Expectation)).toThrow(
      'The expectation: found the key "stauts"; write "status".',
    );
    expect(() => findUnmet(answer(200), { caching: "forever" })).toThrow(
      /caching: found "forever"; write caching as: not stored, revalidated each time, /,
    );
  });
});

describe("caching in words, RFC 9111", () => {
  const YEAR = "fresh for at least 1 year";
  test.each<[string, Record<string, string>, string[], string[]]>([
    [
      "§5.2.2.5 no-store",
      { "cache-control": "no-store, max-age=60" },
      ["not stored", "fresh for at most 1 hour"],
      ["revalidated each time", YEAR],
    ],
    [
      "§5.2.2.4 no-cache",
      { "cache-control": "no-cache" },
      ["revalidated each time", "fresh for at most 1s"],
      ["not stored", "left to the cache"],
    ],
    [
      "§5.2.2.4 no-cache for a field is about that field",
      { "cache-control": 'no-cache="set-cookie", max-age=60' },
      ["fresh for 1 minute"],
      ["revalidated each time"],
    ],
    [
      "§5.2.2.1 max-age",
      { "cache-control": "max-age=31536000, immutable" },
      [YEAR, "fresh for 365d", "fresh for 1 year", "immutable", "fresh for at most 1y"],
      ["fresh for at least 366 days", "private"],
    ],
    [
      "§4.2.1 max-age goes before Expires",
      { "cache-control": "max-age=0", expires: "Fri, 01 Jan 2100 00:00:00 GMT" },
      ["revalidated each time"],
      [YEAR],
    ],
    [
      "§5.3 Expires, counted from Date",
      { date: "Wed, 25 Nov 2026 10:00:00 GMT", expires: "Wed, 25 Nov 2026 10:10:00 GMT" },
      ["fresh for 10 minutes"],
      ["revalidated each time"],
    ],
    [
      "§5.3 an Expires that cannot be read has passed",
      { expires: "0" },
      ["revalidated each time"],
      ["left to the cache"],
    ],
    [
      "§4.2.1 a max-age that cannot be read is stale",
      { "cache-control": "max-age=ten" },
      ["revalidated each time"],
      [YEAR],
    ],
    [
      "§4.2.2 nothing said",
      {},
      ["left to the cache"],
      ["revalidated each time", "fresh for at most 1 hour", "not stored"],
    ],
    [
      "§5.2.2.10 shared caches go by s-maxage",
      { "cache-control": "max-age=0, s-maxage=600" },
      ["shared for 10 minutes", "revalidated each time"],
      ["shared for at least 1 hour"],
    ],
    [
      "§5.2.2.7 private keeps shared caches out",
      { "cache-control": "private, max-age=600" },
      ["private", "fresh for 10m"],
      ["shared for at least 1s"],
    ],
    ["§5.2.2.6 no-transform", { "cache-control": "NO-TRANSFORM" }, ["not transformed"], ["immutable"]],
  ])("%s", (_sentence, headers, hold, fail) => {
    const holds = (text: string): boolean => parseCachingPhrase(text)!.holds(headers);
    expect(hold.filter((text) => !holds(text))).toEqual([]);
    expect(fail.filter(holds)).toEqual([]);
  });

  test.each(["", "fresh", "fresh for", "fresh for a while", "fresh for at least", "cached", "max-age=60"])(
    "%j is no phrase",
    (text) => {
      expect(parseCachingPhrase(text)).toBeUndefined();
    },
  );

  test.each<[string, Partial<ReturnType<typeof parseCacheControl>>]>([
    ["max-age=60, max-age=70", { repeated: ["max-age"], malformed: undefined }],
    ['a="b, c" , d', { repeated: [], malformed: undefined }],
    ["max-age: 60", { malformed: "max-age: 60" }],
    ["no-cache; max-age=1", { malformed: "no-cache; max-age=1" }],
    ["public, =1", { malformed: "=1" }],
  ])("Cache-Control %j", (value, wanted) => {
    expect(parseCacheControl(value)).toMatchObject(wanted);
  });

  test("any text is read without a fault, and what is written is read again", () => {
    fc.assert(fc.property(fc.string(), (text) => void parseCacheControl(text)));
    const name = fc.stringMatching(/^[a-z-]{1,12}$/);
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(name, fc.option(fc.nat(), { nil: undefined })), { selector: ([key]) => key }),
        (pairs) => {
          const text = pairs
            .map(([key, value]) => (value === undefined ? key : `${key}=${value}`))
            .join(", ");
          expect([...parseCacheControl(text).directives]).toEqual(
            pairs.map(([key, value]) => [key, value === undefined ? true : String(value)]),
          );
        },
      ),
    );
    fc.assert(
      fc.property(
        fc.nat({ max: 10 ** 9 }),
        (seconds) =>
          void expect(parseSpokenDuration(formatDuration(seconds).replaceAll(",", ""))).toBe(seconds),
      ),
    );
  });
});

test.each<[string, number, [from: number, to: number] | undefined]>([
  ["bytes=2-4", 10, [2, 4]],
  ["bytes=2-40", 10, [2, 9]],
  ["bytes=7-", 10, [7, 9]],
  ["bytes=-3", 10, [7, 9]],
  ["bytes=-30", 10, [0, 9]],
  ["bytes=-", 10, undefined],
  ["bytes=10-", 10, undefined],
  ["bytes=5-3", 10, undefined],
  ["chars=1-2", 10, undefined],
])("%s of %d bytes", (field, length, range) => {
  const found = resolveRange(field, length);
  expect(found && [found.from, found.to]).toEqual(range);
});

test.each<[string, string[]]>([
  [
    "url(/a.png) url( /b.png ) url(\"/c d.png\") url( 'e.png' )",
    ["/a.png", "/b.png", "/c%20d.png", "/styles/e.png"],
  ],
  ["url('a url(\"b) url(c)\nurl(d)", ["/styles/d"]],
  ["/* url(a) */ url(b) /* url(c)", ["/styles/b"]],
  ['a::before { content: "url(a) \\" url(b)"; background: URL(c) } my-url(d) curl(e)', ["/styles/c"]],
  ["url('a\n) url('a\\') url( b)", []],
  ["url('a\n) url( b)", ["/styles/b"]],
  [
    "@import 'a.css'; @IMPORT\n\"/b.css\" screen; @import url(c.css); @imports 'd.css'; @import 'e.css",
    ["/styles/a.css", "/b.css", "/styles/c.css"],
  ],
  ["url(a b) url(c", []],
  ["url() url('') url(#mark) url(data:x) url(http://[)", []],
])("the addresses in a style sheet: %s", (css, addresses) => {
  const found = findReferencesIn(css, "style", "http://x.invalid/styles/site.css");
  expect(found.map(({ url }) => url)).toEqual(addresses.map((path) => `http://x.invalid${path}`));
});

test("the addresses in a document, also of pictures in several sizes, against its base", () => {
  const html =
    '<base href="/explorer/"><img src="tern.png" srcset="tern-1.png 1x,\n tern-2.png  2x"><a href="#top">up</a><a href="mailto:x@x.invalid">us</a><script src=app.js></script>';
  expect(
    findReferences(atOnce(readPage(html, false)), "http://x.invalid/guide/")
      .map(({ url }) => url)
      .sort(),
  ).toEqual(
    ["app.js", "tern-1.png", "tern-2.png", "tern.png"].map((name) => `http://x.invalid/explorer/${name}`),
  );
});

test("the addresses of an application manifest, and of one that is none", () => {
  const manifest = {
    start_url: "./?source=home",
    url_scheme: "x",
    mysrc: "no.png",
    icons: [{ src: "/icon.png", sizes: "1x1" }, { src: 7 }],
    shortcuts: [{ url: "/records/", icons: [{ src: "r.png" }] }],
    related: { src: "http://[" },
  };
  const find = (text: string): string[] =>
    findReferencesIn(text, "manifest", "http://x.invalid/app/").map(({ url }) => url);
  expect(find(JSON.stringify(manifest))).toEqual([
    "http://x.invalid/app/?source=home",
    "http://x.invalid/icon.png",
    "http://x.invalid/records/",
    "http://x.invalid/app/r.png",
  ]);
  expect(find("{")).toEqual([]);
});

test.each<[Partial<Counts>, string]>([
  [{ total: 1, passed: 1 }, "All passed: 1 case."],
  [{ total: 1200, passed: 1200 }, "All passed: 1,200 cases."],
  [{ total: 3, passed: 2, skipped: 1 }, "2 of 3 cases passed, 1 skipped."],
  [
    { total: 9, passed: 4, skipped: 1, advised: 2, known: 2 },
    "4 of 9 cases passed, 1 skipped, 2 could be better, 2 known to fail.",
  ],
  [{ total: 9, passed: 6, failed: 1, advised: 2 }, "1 of 9 cases failed, 2 could be better."],
  [
    { total: 9, passed: 6, failed: 3, unanswered: 2, known: 1 },
    "3 of 9 cases failed, 2 without an answer, 1 known to fail.",
  ],
])("counts in words: %j", (counts, words) => {
  expect(
    speakCounts({
      total: 0,
      passed: 0,
      failed: 0,
      unanswered: 0,
      skipped: 0,
      advised: 0,
      known: 0,
      ...counts,
    } as Counts),
  ).toBe(words);
});

describe("JSON, a part of it", () => {
  test("everything is a part of itself, and nothing throws", () => {
    fc.assert(
      fc.property(
        fc.jsonValue(),
        (value) => void expect(findJsonDifference(value, structuredClone(value))).toBeUndefined(),
      ),
    );
    fc.assert(fc.property(fc.jsonValue(), fc.jsonValue(), (a, b) => void findJsonDifference(a, b)));
  });
  test.each<[unknown, unknown, unknown]>([
    [{ a: 1 }, { a: 1, b: 2 }, undefined],
    [[1], [1, 2], { place: "$", expected: "a list of 1", got: "a list of 2" }],
    [{ "a b": { c: 1 } }, { "a b": {} }, { place: '$["a b"].c', expected: 1, got: undefined }],
    [{ toString: 1 }, {}, { place: "$.toString", expected: 1, got: undefined }],
    [{}, [], { place: "$", expected: {}, got: [] }],
  ])("%j in %j", (expected, got, difference) => {
    expect(findJsonDifference(expected, got)).toEqual(difference);
  });
});

test("what differs between two values is what is between their common ends", () => {
  const letters = fc.stringMatching(/^[ab]{0,6}$/);
  fc.assert(
    fc.property(letters, letters, letters, letters, (head, one, other, tail) => {
      const [a, b] = [`${head}${one}${tail}`, `${head}${other}${tail}`];
      const { start, end } = markDifference(a, b);
      const fromEnd = b.length - end;
      expect([a.slice(0, start), a.slice(a.length - fromEnd)]).toEqual([b.slice(0, start), b.slice(end)]);
      // Not a letter more is common to both.
      expect(start === Math.min(a.length, b.length) || a[start] !== b[start]).toBe(true);
      expect(
        start + fromEnd === Math.min(a.length, b.length) || a.at(-1 - fromEnd) !== b.at(-1 - fromEnd),
      ).toBe(true);
    }),
  );
});

test.each<[AcceptedFailure, string | undefined, string, boolean]>([
  [{ case: "the front page", reason: "later" }, undefined, "the front page", true],
  [{ case: "the front page", reason: "later" }, undefined, "the front page of all", false],
  [{ case: "pages: *", reason: "later" }, "pages", "the front page", true],
  [{ case: "pages: *", reason: "later" }, undefined, "pages", false],
  [{ case: "*: /a*.css", reason: "later" }, "types", "/ab.css", true],
  [{ case: "*: /a*.css", reason: "later" }, "types", "/b.css", false],
  [{ case: "ab*ba", reason: "later" }, undefined, "aba", false],
  [{ case: "a*b*c", reason: "later" }, undefined, "axbxc", true],
  [{ case: "a*b*c", reason: "later" }, undefined, "axxxc", false],
  [{ case: "a*bc*c", reason: "later" }, undefined, "abc", false],
  [{ case: "a", about: "Vary", reason: "later" }, undefined, "a", true],
  [{ case: "a", about: ["Vary", "ETag"], reason: "later" }, undefined, "a", true],
  [{ case: "a", about: "ETag", reason: "later" }, undefined, "a", false],
])("what is known to fail: %j of the case %s, %s", (entry, group, name, isKnown) => {
  const differences = [{ about: "Vary", expected: "a", got: "b", comparable: false }];
  const failed = {
    case: { group, name },
    outcome: "failed",
    exchanges: [{ differences }],
  } as unknown as CaseResult;
  const passed = { ...failed, outcome: "passed" } as CaseResult;
  const baseline = makeBaseline([entry]);
  expect(baseline.judge(passed)).toBe(passed);
  expect(baseline.listGone()).toEqual([entry]);
  expect(baseline.judge(failed)).toEqual(
    isKnown ? { ...failed, outcome: "known", because: "later" } : failed,
  );
  expect(baseline.listGone()).toEqual(isKnown ? [] : [entry]);
});

test.each<[pointer: string, wanted: JsonExpectation, holds: boolean]>([
  ["", { type: "object" }, true],
  ["", { type: "array" }, false],
  ["", { count: 7 }, true],
  ["/birds", { type: "array" }, true],
  ["/birds", { type: "object" }, false],
  ["/birds", { count: 1 }, true],
  ["/birds", { count: 2 }, false],
  ["/birds", { contains: { name: "Curlew" } }, true],
  ["/birds", { contains: { name: "Tern" } }, false],
  ["/birds/00", { present: false }, true],
  ["/birds/1", { present: false }, true],
  ["/birds/length", { present: false }, true],
  ["/toString", { present: false }, true],
  ["/open", { type: "null" }, true],
  ["/open", { type: "object" }, false],
  ["/open", { present: true }, true],
  ["/open/deeper", { present: false }, true],
  ["/none/deeper", { present: true }, false],
  ["/a~1b/~0", { equals: 1 }, true],
  ["/a~1b/~0", { equals: 2 }, false],
  ["/season", { type: "integer" }, true],
  ["/half", { type: "integer" }, false],
  ["/half", { type: "number" }, true],
  ["/yes", { type: "boolean" }, true],
  ["/season", { atLeast: 2026 }, true],
  ["/season", { atLeast: 2027 }, false],
  ["/season", { atMost: 2025 }, false],
  ["/season", { count: 1 }, false],
  ["/season", { contains: 2 }, false],
  ["/season", { matches: "^20" }, true],
  ["/birds/0/name", { atMost: 9 }, false],
  ["/birds/0/name", { contains: "url" }, true],
  ["/birds/0/name", { contains: 1 }, false],
  ["/birds/0/name", { matchesNot: "^C" }, false],
  ["/birds/0/name", { matchesNot: "^D" }, true],
  ["/none", { matches: "." }, false],
  ["/none", { matchesNot: "." }, false],
])("in JSON, at %j %j: %s", (pointer, wanted, holds) => {
  const body = JSON.stringify({
    birds: [{ name: "Curlew", count: 3 }],
    open: null,
    "a/b": { "~": 1 },
    season: 2026,
    half: 0.5,
    yes: true,
    toStr: 1,
  });
  expect(findUnmet(answer(200, {}, body), { body: { jsonAt: { [pointer]: wanted } } }).length).toBe(
    holds ? 0 : 1,
  );
});

test.each<[cookies: Expectation["cookies"], unmet: string[]]>([
  ["none", ["cookies: none / a, b"]],
  [{ a: { value: "1=2", httpOnly: true, secure: false, sameSite: "Lax", path: "/guide" } }, []],
  [
    { a: { value: "1", httpOnly: false, secure: true, sameSite: "Strict", path: "/" } },
    [
      'cookie a: "1" / "1=2"',
      "cookie a: no HttpOnly / HttpOnly",
      "cookie a: Secure / no Secure",
      "cookie a: SameSite=Strict / SameSite=lax",
      "cookie a: Path=/ / Path=/guide",
    ],
  ],
  [{ b: { value: "", path: "/" } }, ["cookie b: Path=/ / no Path"]],
  [{ b: { present: false } }, ['cookie b: not set / set to ""']],
  [{ c: { present: false } }, []],
  [{ c: { path: "/" } }, ["cookie c: set / not set", "cookie c: Path=/ / not set"]],
])("cookies %j", (cookies, unmet) => {
  const lines: [string, string][] = [
    ["Set-Cookie", "a = 1=2 ; HTTPONLY; SameSite=lax; Path=/guide"],
    ["set-cookie", "b"],
  ];
  const got = { ...answer(200, { "set-cookie": lines.map(([, value]) => value).join(", ") }), lines };
  expect(
    findUnmet(got, { cookies }).map(({ about, expected, got }) => `${about}: ${expected} / ${got}`),
  ).toEqual(unmet);
});

test("one cookie whose lines are not known", () => {
  expect(
    findUnmet(answer(200, { "set-cookie": "a=1; Secure" }), { cookies: { a: { secure: true } } }),
  ).toEqual([]);
});

const HEX = "0f".repeat(32);
const LONG = Buffer.alloc(64).toString("base64");
test.each([
  [`sha-256=${HEX}`, true],
  [`sha-256=${HEX.toUpperCase()}`, true],
  [`sha-512=:${LONG}:`, true],
  [`sha-256=:${LONG}:`, false],
  [`sha-256=${HEX} `, false],
  [`sha-512=:${LONG}`, false],
  [`sha-256=${HEX}:`, false],
  [`sha-1=${HEX}`, false],
  [` sha-256=${HEX}`, false],
])("%j is a digest: %s", (text, isOne) => {
  expect(readDigest(text) !== undefined).toBe(isOne);
});

test.each<[bytes: string, parts: string[] | string]>([
  ["--x\r\nA: b\r\n\r\none\r\n--x\r\n\r\ntwo\r\n--x--", ["a=b one", " two"]],
  ["before\r\n--x\r\n: none\r\nfolded\r\nC : d \r\n\r\n\r\n--x--\r\nbehind", ["c=d "]],
  ["--x--", []],
  ["none", 'no part begins with the boundary "x"'],
  ["--x\r\nA: b", "the part 1 has fields that do not end"],
  ["--x", "the part 1 has fields that do not end"],
  ["--x\r\n\r\none", "the closing boundary after 1 part is missing"],
  ["--x\r\n\r\none\r\n--x\r\n\r\ntwo", "the closing boundary after 2 parts is missing"],
])("the parts of %j", (bytes, parts) => {
  const read = readParts(Buffer.from(bytes), "x");
  expect(
    "problem" in read
      ? read.problem
      : read.parts.map(
          ({ headers, bytes: own }) =>
            `${Object.entries(headers).map((pair) => pair.join("="))} ${Buffer.from(own)}`,
        ),
  ).toEqual(parts);
});

test.each([
  ["multipart/byteranges; boundary=a.b", "a.b"],
  ['Multipart/Byteranges;charset=x; boundary="a b;c"', "a b;c"],
  ["multipart/byteranges; boundary=", undefined],
  [`multipart/byteranges; boundary=${"a".repeat(70)}`, "a".repeat(70)],
  [`multipart/byteranges; boundary=${"a".repeat(71)}`, undefined],
  ["multipart/mixed; boundary=a", undefined],
  ["text/plain", undefined],
])("the boundary of %s is %s", (type, boundary) => {
  expect(readBoundary(type)).toBe(boundary);
});
