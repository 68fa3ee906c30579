import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { readRequest } from "../../src/adapters/read-request.js";
import { chooseMediaType } from "../../src/core/fields/accept.js";
import { describeKind } from "../../src/core/listing/describe-kind.js";
import { makeNameKey } from "../../src/core/listing/order.js";
import { formatListingQuery, parseListingQuery } from "../../src/core/listing/query.js";
import { isAddressable, stripPrefix } from "../../src/core/request/target.js";
import { compileCrossOrigin } from "../../src/core/rules/cross-origin.js";
import { PrefixTree } from "../../src/core/rules/prefix-tree.js";
import { foldName } from "../../src/core/text/fold-name.js";
import { escapeHtml } from "../../src/core/text/html.js";
import { DEFAULT_ORIGIN } from "../../src/core/text/origin.js";
import { printable, showName } from "../../src/core/text/printable.js";
import { formatSize } from "../../src/core/text/size.js";
import { suggestName } from "../../src/core/text/suggest.js";
import type { EntryKind } from "../../src/index.js";
import { explainError } from "../../src/sources/open-errors.js";

test("the longest prefix on whole segments agrees with a model that tries each", () => {
  const path = fc
    .array(fc.constantFrom("a", "b", "ab", ""), { maxLength: 4 })
    .map((segments) => segments.filter(Boolean).join("/"));
  fc.assert(
    fc.property(fc.uniqueArray(path, { maxLength: 5 }), path, (prefixes, asked) => {
      const tree = new PrefixTree<string>();
      for (const prefix of prefixes) tree.set(prefix, `at ${prefix}`);
      const [best] = prefixes
        .filter((prefix) => prefix === "" || asked === prefix || asked.startsWith(`${prefix}/`))
        .sort((a, b) => b.length - a.length);
      expect(tree.find(asked)).toEqual(
        best === undefined ? undefined : { value: `at ${best}`, length: best.length },
      );
      expect(tree.values()).toEqual(prefixes.map((prefix) => `at ${prefix}`));
    }),
  );
});

test.each<[string, string, string | undefined, string | undefined]>([
  ["no prefix", "a/b", undefined, "a/b"],
  ["an empty one", "a/b", "", "a/b"],
  ["the root", "a/b", "/", "a/b"],
  ["the prefix itself", "a", "/a", ""],
  ["below it", "a/b/c", "/a/b", "c"],
  ["an escaped prefix", "ä b/c", "/%C3%A4%20b", "c"],
  ["on whole segments", "ab", "/a", undefined],
  ["elsewhere", "b", "/a", undefined],
  ["one that cannot be read", "a", "/%zz", undefined],
])("a prefix that a host took off: %s", (_sentence, path, prefix, expected) => {
  expect(stripPrefix(path, prefix)).toBe(expected);
});

test.each<[string, string, string | undefined, string | undefined]>([
  ["no host took anything off", "/a", undefined, undefined],
  ["nor changed it", "/a", "/a", undefined],
  ["a prefix", "/x?q", "/static/x?q", "/static"],
  ["a prefix alone, to which the host adds a slash", "/", "/static", "/static"],
  ["with a query", "/?q", "/static?q", "/static"],
  ["a host that changes the path in another way", "/other", "/static/x", undefined],
])("what a host leaves in originalUrl: %s", (_sentence, url, originalUrl, strippedPrefix) => {
  const request = { method: "GET", url, headers: {}, ...(originalUrl === undefined ? {} : { originalUrl }) };
  expect(readRequest(request as unknown as Parameters<typeof readRequest>[0], true, false)).toMatchObject({
    target: originalUrl ?? url,
    strippedPrefix,
    mayPass: true,
  });
});

test("other origins: any, those of a list, and none that does not say so", () => {
  const [any, some] = [
    compileCrossOrigin("*", DEFAULT_ORIGIN),
    compileCrossOrigin(["https://a.example"], DEFAULT_ORIGIN),
  ];
  expect([
    any.grant(undefined),
    any.vary.flat,
    any.fieldsFor("x").get("access-control-allow-origin"),
  ]).toEqual(["*", [], "*"]);
  expect(
    ["https://a.example", "https://b.example", undefined].map((origin) => [
      some.grant(origin),
      some.fieldsFor(origin).get("access-control-allow-origin"),
      some.fieldsFor(origin).get("vary"),
    ]),
  ).toEqual([
    ["https://a.example", "https://a.example", "Origin"],
    [undefined, undefined, "Origin"],
    [undefined, undefined, "Origin"],
  ]);
});

test.each<[string | undefined, string]>([
  [undefined, "text/plain"],
  ["text/csv, text/html;q=0.5", "text/html"],
  ["audio/html, text/plain;q=0.1", "text/plain"],
  ["text/*;q=0.2, */*;q=0.1", "text/plain"],
  ["text/*, text/plain;q=0.1", "text/html"],
  ["*/*;q=0.5, text/*;q=0", "application/json"],
])("Accept: %s wants %s", (accept, expected) => {
  expect(chooseMediaType(accept, ["text/plain", "text/html", "application/json"])).toBe(expected);
});

describe("names and numbers as people read them", () => {
  test.each<[number, string]>([
    [0, "0 B"],
    [999, "999 B"],
    [1000, "1.0 kB"],
    [99_949, "99.9 kB"],
    [99_950, "100 kB"],
    [999_499, "999 kB"],
    [999_500, "1.0 MB"],
    [12_345_678_901, "12.3 GB"],
    [1.5e15, "1500 TB"],
  ])("%d bytes are %s", (bytes, text) => {
    expect(formatSize(bytes)).toBe(text);
  });

  test("no name does anything to a page or a terminal", () => {
    expect(showName("   ")).toBe("\u2423\u2423\u2423");
    expect(showName("  a\u0000\u001b\u007f\u0085\u202e\u2028b\ud800 ")).toBe(
      "\u2423\u2423a\u2400\u241b\u2421\\u{85}\\u{202e}\\u{2028}b\ufffd\u2423",
    );
    expect(printable("a\u001b[0m\u202e\u2028\u0085 b")).toBe("a\\u{1b}[0m\\u{202e}\\u{2028}\\u{85} b");
    expect(escapeHtml(`<a href="x" title='y'>&</a>`)).toBe(
      "&lt;a href=&quot;x&quot; title=&#39;y&#39;&gt;&amp;&lt;/a&gt;",
    );
    expect(["a", "a b", "\ud800", "a\\b", "a\0", "\ufffd", "\ud83d\udc26"].map(isAddressable)).toEqual([
      true,
      true,
      false,
      false,
      false,
      false,
      true,
    ]);
    expect(foldName("E\u0301COLE")).toBe(foldName("\u00e9cole"));
  });

  test("the nearest right spelling, when it is near enough", () => {
    const known = ["defaultDocuments", "withheld", "at"];
    expect(
      ["defaultDocumnets", "WITHHELD", "ta", "to", "nothing like it", "listing"].map((name) =>
        suggestName(name, known),
      ),
    ).toEqual(["defaultDocuments", "withheld", "at", undefined, undefined, undefined]);
    expect(suggestName("x", [])).toBeUndefined();
  });

  test("numbers in names count by their value, however long they are", () => {
    const names = [
      "a",
      "a0",
      "a00",
      "a1",
      "a02",
      "a9",
      "a10",
      "a100",
      `a${"9".repeat(9)}`,
      `a1${"0".repeat(9)}`,
      `a${"9".repeat(12)}`,
      "a1b2",
      "a1b10",
      "b",
    ];
    const sorted = [...names].sort((a, b) => (makeNameKey(a) < makeNameKey(b) ? -1 : 1));
    expect(sorted).toEqual([
      "a",
      "a0",
      "a00",
      "a1",
      "a1b2",
      "a1b10",
      "a02",
      "a9",
      "a10",
      "a100",
      `a${"9".repeat(9)}`,
      `a1${"0".repeat(9)}`,
      `a${"9".repeat(12)}`,
      "b",
    ]);
  });

  test.each<[EntryKind, string | undefined, string | undefined, string]>([
    ["directory", undefined, "./a/", "Folder folder"],
    ["broken", undefined, undefined, "Broken link lost"],
    ["unreadable", undefined, undefined, "Cannot be read lost"],
    ["special", undefined, undefined, "No file lost"],
    ["file", "text/plain", undefined, "Has no address lost"],
    ["file", "image/png", "./a", "Picture picture"],
    ["file", "audio/wave", "./a", "Sound sound"],
    ["file", "video/mp4", "./a", "Film film"],
    ["file", "font/woff2", "./a", "Font font"],
    ["file", "text/csv", "./a", "Data data"],
    ["file", "application/geo+json", "./a", "Data data"],
    ["file", "text/html", "./a", "Page text"],
    ["file", "text/javascript", "./a", "Code text"],
    ["file", "application/wasm", "./a", "Code text"],
    ["file", "application/pdf", "./a", "Text text"],
    ["file", "application/gzip", "./a", "Archive archive"],
    ["file", "application/octet-stream", "./a", "File file"],
    ["file", undefined, "./a", "File file"],
  ])("what a listing calls %s, %s, %s: %s", (kind, mediaType, href, expected) => {
    const { word, symbol } = describeKind({ name: "a", kind, sizeBytes: 0, modifiedMs: 0, mediaType, href });
    expect(`${word} ${symbol}`).toBe(expected);
  });

  test("a listing's query that is written is read back; the default is not written", () => {
    const request = fc.record({
      order: fc.constantFrom("name", "kind", "size", "time"),
      descending: fc.boolean(),
      page: fc.integer({ min: 1, max: 999_999_999 }),
      filter: fc.string({ unit: "grapheme" }).map((text) => text.trim()),
    });
    fc.assert(
      fc.property(
        request,
        fc.constantFrom("name", "size"),
        (asked, fallback) =>
          void expect(
            parseListingQuery(formatListingQuery(asked, fallback), { order: fallback, nameFilter: true }),
          ).toEqual(asked),
      ),
    );
    expect([
      formatListingQuery({ order: "size", descending: false, page: 1, filter: "" }, "size"),
      formatListingQuery({ order: "time", descending: true, page: 2, filter: "é +&" }, "size"),
    ]).toEqual(["", "?filter=%C3%A9%20%2B%26&order=time&descending&page=2"]);
    for (const page of ["0", "-1", "1.5", "1e3", "01", "", "1".repeat(10)])
      expect(parseListingQuery(`?page=${page}`, { order: "name", nameFilter: true }).page).toBe(1);
    for (const [query, filter] of [
      ["?filter=a+b%2B", "a b+"],
      ["?filter=%ff", ""],
      ["?filter=+%20", ""],
    ] as const)
      expect(parseListingQuery(query, { order: "name", nameFilter: true }).filter).toBe(filter);
  });
});

test.each<[string, ReturnType<typeof explainError>]>([
  ["ENOENT", { kind: "missing", because: "no-such-file" }],
  ["ENAMETOOLONG", { kind: "missing", because: "no-such-file" }],
  ["EINVAL", { kind: "missing", because: "no-such-file" }],
  ["EILSEQ", { kind: "missing", because: "no-such-file" }],
  ["ERR_INVALID_ARG_VALUE", { kind: "missing", because: "no-such-file" }],
  ["ENOTDIR", { kind: "missing", because: "not-a-directory" }],
  ["ELOOP", { kind: "missing", because: "link-loop" }],
  ["EACCES", { kind: "forbidden", cause: "EACCES" }],
  ["EPERM", { kind: "forbidden", cause: "EPERM" }],
  ["ENXIO", { kind: "special" }],
  ["ENODEV", { kind: "special" }],
  ["EOPNOTSUPP", { kind: "special" }],
  ["EMFILE", { kind: "failed", cause: "EMFILE: no file descriptors left", busy: true }],
  ["ENFILE", { kind: "failed", cause: "ENFILE: no file descriptors left", busy: true }],
  ["EIO", { kind: "failed", cause: "EIO", busy: false }],
])("a name that cannot be opened, %s", (code, expected) => {
  expect(explainError(Object.assign(new Error("x"), { code }))).toEqual(expected);
});
