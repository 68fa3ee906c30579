import { expect, test } from "vitest";
import { decideKind, extensionOf } from "../../src/reading/contents/kinds.js";
import type { Asker, Question, Reply } from "../../src/testing/ask/ask.js";
import { makeQuestions, withoutRepeats } from "../../src/testing/compare/questions.js";
import { crawl, findReferences, toPath } from "../../src/testing/discover/crawl.js";
import { kindOf } from "../../src/testing/discover/kind.js";
import { choose, foldersOf, type Sample, takeSample } from "../../src/testing/discover/sample.js";

const BASE = "http://larkholm.invalid";
const reply = (headers: Record<string, string>, body: string, status = 200) => ({
  status,
  headers,
  body: new TextEncoder().encode(body),
  inside: undefined,
});
const HTML = { "content-type": "text/html" };

test.each<[what: string, headers: Record<string, string>, body: string, path: string, found: string[]]>([
  [
    "a redirect names where it leads, and nothing else",
    { ...HTML, location: "../x", link: "</a>; rel=preload" },
    "<a href=/b>",
    "/guide/",
    ["Location /x"],
  ],
  ["a redirect to what is no address", { ...HTML, location: "http://[" }, "<a href=/b>", "/", ["a /b"]],
  [
    "a page",
    HTML,
    '<a href="b#top"><img src="/p.png" srcset="/q.png 2x"><link rel=preconnect href="/none"><link rel=icon href="/i.ico"><form action="/none"></form>',
    "/guide/",
    ["a /guide/b", "img /p.png", "img /q.png", "link /i.ico"],
  ],
  [
    "a page of XHTML",
    { "content-type": "application/xhtml+xml" },
    "<a xmlns='http://www.w3.org/1999/xhtml' href='/b'/>",
    "/",
    ["a /b"],
  ],
  ["a page that names no type", {}, "<!doctype html><a href=/b>", "/", ["a /b"]],
  ["a text is none", { "content-type": "text/plain" }, "<a href=/b>", "/", []],
  [
    "a style sheet",
    { "content-type": "text/css" },
    "a{background:url(/p.png)} @import '/b.css';",
    "/a.css",
    ["url() /p.png", "url() /b.css"],
  ],
  [
    "a script",
    { "content-type": "application/javascript" },
    'import "./b.js"; import("/c.js")',
    "/s/a.js",
    ["import /s/b.js", "import /c.js"],
  ],
  [
    "a manifest, by its name",
    { "content-type": "application/json" },
    '{"start_url":"/app/"}',
    "/a.webmanifest",
    ["a manifest /app/"],
  ],
  [
    "a manifest of another name",
    { "content-type": "application/json" },
    '{"start_url":"/app/"}',
    "/sub/manifest.json",
    ["a manifest /app/"],
  ],
  ["data is none", { "content-type": "application/json" }, '{"start_url":"/app/"}', "/xmanifest.json", []],
  [
    "preloads of a field",
    {
      link: '</a.js>; as=script; rel="next modulepreload", </b.css>;REL = preload, </c>; rel=canonical, <http://[>; rel=preload',
    },
    "",
    "/",
    ["the field Link /a.js", "the field Link /b.css"],
  ],
])("what an answer names: %s", (_what, headers, body, path, found) => {
  const named = findReferences(reply(headers, body), BASE + path);
  expect(named.map(({ url, by }) => `${by} ${url.replace(BASE, "").replace(/#.*/, "")}`)).toEqual(found);
  // An error, and what breaks off, name what their fields name.
  const told = found.filter((one) => /^(?:the field|Location)/.test(one)).length;
  expect(
    [
      findReferences(reply(headers, body, 404), BASE + path),
      findReferences({ ...reply(headers, body), isCut: true }, BASE + path),
    ].map(({ length }) => length),
  ).toEqual([told, told]);
});

test.each<[type: string | undefined, kind: string]>([
  ["text/html", "document"],
  ["text/css", "style"],
  ["application/x-javascript", "script"],
  ["text/ecmascript", "script"],
  ["image/svg+xml", "picture"],
  ["application/font-woff", "font"],
  ["application/vnd.ms-fontobject", "font"],
  ["audio/ogg", "sound"],
  ["video/mp4", "film"],
  ["application/geo+json", "data"],
  ["text/csv", "data"],
  ["text/csv-schema", "text"],
  ["application/jsonx", "other"],
  ["application/pdf", "other"],
  [undefined, "other"],
])("%s is for %s", (type, kind) => {
  expect(decideKind(type)).toBe(kind);
  expect(
    kindOf(
      reply(
        type === undefined ? {} : { "content-type": `${type}; a=b` },
        type === undefined ? "\0" : "<!doctype html>",
      ),
    ),
  ).toBe(kind);
});

test.each([
  ["/a/b.PNG?x=.css#.js", ".png"],
  ["/a.d/b", ""],
  ["/.env", ""],
  ["/a.tar.gz", ".gz"],
  ["/a.", "."],
  ["/", ""],
])("the extension of %s is %j", (path, extension) => {
  expect(extensionOf(path)).toBe(extension);
});

test.each<[string, string | undefined]>([
  [`${BASE}/birds`, "/"],
  [`${BASE}/birds/`, "/"],
  [`${BASE}/birds/a?b`, "/a?b"],
  [`${BASE}/birdsong`, undefined],
  ["http://other.invalid/birds/", undefined],
])("behind the base, %s is %s", (href, path) => {
  expect(toPath(href, `${BASE}/birds`)).toBe(path);
});

/** Pages that each link to the next two, and to a picture. */
const site = (failing?: string): Asker & { asked: string[] } => {
  const asked: string[] = [];
  return {
    about: "",
    address: BASE,
    concurrency: 2,
    asked,
    async ask({ path }) {
      asked.push(path);
      if (path === failing) throw new Error("no answer");
      const number = Number(/\d+/.exec(path)?.[0] ?? 0);
      return reply(
        HTML,
        `<a href="/${number * 2 + 1}">a</a><a href="/${number * 2 + 2}?q">b</a><a href="/${number * 2 + 2}.html">c</a><a href="http://other.invalid/">d</a><img src="/p.png">`,
      );
    },
    close: async () => {},
  };
};

test("links are followed from page to page, up to a limit of pages, and of addresses", async () => {
  const one = site();
  const found: number[] = [];
  const all = await crawl(one, ["/"], { reads: 4, addresses: 100 }, (count) => found.push(count));
  // Pages with a query, and pictures, are noted and not read.
  expect(one.asked).toEqual(["/", "/1", "/2.html", "/3"]);
  expect([found, all.leftOut, all.candidates.length]).toEqual([[5, 11, 14], 0, 14]);
  expect(all.mentions.slice(0, 4)).toEqual([
    { from: "/", to: "/1", written: "/1", by: "a" },
    { from: "/", to: "/2?q", written: "/2?q", by: "a" },
    { from: "/", to: "/2.html", written: "/2.html", by: "a" },
    { from: "/", to: "/p.png", written: "/p.png", by: "img" },
  ]);
  const few = await crawl(site(), ["/"], { reads: 3, addresses: 6 });
  expect([few.candidates.length, few.leftOut]).toEqual([6, 5]);
});

test("a page that does not answer names nothing, but the first one must", async () => {
  expect(
    (await crawl(site("/1"), ["/"], { reads: 3, addresses: 100 })).candidates.map(({ path }) => path),
  ).toEqual(["/", "/1", "/2?q", "/2.html", "/p.png", "/5", "/6?q", "/6.html"]);
  await expect(crawl(site("/"), ["/", "/1"])).rejects.toThrow("no answer");
  expect((await crawl(site("/1"), ["/", "/1"], { reads: 2, addresses: 9 })).candidates.length).toBe(5);
});

const MIB = 1024 * 1024;
const named = (...paths: string[]) => paths.map((path) => ({ path }));

test.each<[what: string, candidates: Parameters<typeof choose>[0], chosen: string[]]>([
  ["two of an extension", named("/a.css", "/B.CSS", "/c.css"), ["/a.css", "/B.CSS"]],
  [
    "those with a fingerprint apart",
    named("/a.css", "/b.css", "/c-5f3a91bc.css", "/d-5f3a91bc.css", "/e-5f3a91bc.css"),
    ["/a.css", "/b.css", "/c-5f3a91bc.css", "/d-5f3a91bc.css"],
  ],
  [
    "four pages, and four directories",
    named("/a", "/b", "/c", "/d", "/e", "/a/", "/b/?q", "/c/", "/d/", "/e/"),
    ["/a", "/b", "/c", "/d", "/a/", "/b/?q", "/c/", "/d/"],
  ],
  [
    "four of .html",
    named("/a.html", "/b.html", "/c.html", "/d.html", "/e.html", "/a.htm"),
    ["/a.html", "/b.html", "/c.html", "/d.html", "/a.htm"],
  ],
  [
    "of each mount",
    ["/", "/x", undefined].flatMap((mount) =>
      named("/a.css", "/b.css", "/c.css").map((one) => ({ ...one, mount })),
    ),
    ["/a.css", "/b.css", "/a.css", "/b.css", "/a.css", "/b.css"],
  ],
  [
    "none that is too large",
    [
      { path: "/a.wav", sizeBytes: 2 * MIB },
      { path: "/b.wav", sizeBytes: 2 * MIB + 1 },
    ],
    ["/a.wav"],
  ],
  [
    "what is known of a name goes before its looks",
    [{ path: "/a.css" }, { path: "/b.css" }, { path: "/c.css", fingerprinted: true }],
    ["/a.css", "/b.css", "/c.css"],
  ],
  [
    "no more than 120",
    named(...Array.from({ length: 130 }, (_, i) => `/a.e${i}`)),
    Array.from({ length: 120 }, (_, i) => `/a.e${i}`),
  ],
])("a few of each kind are looked at: %s", (_what, candidates, chosen) => {
  expect(choose(candidates).map(({ path }) => path)).toEqual(chosen);
});

test("the folders of what is served that have no page", () => {
  const resources = named("/a/b/c.css?x=/d/", "/a/e.css", "/guide/x/y.html", "/guide/x/", "/f.css").map(
    (one) => one as Sample["resources"][number],
  );
  expect(foldersOf({ resources, directories: ["/guide/"] } as unknown as Sample)).toEqual(["/a/", "/a/b/"]);
});

const fake = (address: string, answer: (question: Question) => Reply): Asker => ({
  about: "",
  address,
  concurrency: 1,
  ask: async (question) => answer(question),
  close: async () => {},
});

test.each([
  ["http://localhost:8080", true],
  ["http://birds.localhost", true],
  ["http://127.9.8.7", true],
  ["http://[::1]:8080", true],
  ["http://localhost.invalid", false],
  ["http://127.0.0.1.invalid", false],
  ["http://10.0.0.1", false],
  ["http://[::2]", false],
])("writing methods may be tried on %s: %s", async (address, may) => {
  const asker = fake(address, () => reply({}, "none", 404));
  expect([(await takeSample(asker)).mayWrite, (await takeSample(asker, { methods: true })).mayWrite]).toEqual(
    [may, true],
  );
});

test("an application is found by asking, the outermost one that answers; what is cut is large, and what fails is told", async () => {
  const PAGES =
    '<!doctype html><a href="/app/">a</a><a href="/app/inner/">i</a><a href="/guide/">g</a><a href="/call.wav">w</a><a href="/bare.wav">w</a><a href="/gone">x</a><a href="/no">n</a>';
  const asked: string[] = [];
  const sample = await takeSample(
    fake(BASE, ({ path, headers }) => {
      asked.push(`${path} ${headers.Accept ?? ""}`);
      if (path === "/no") throw new Error("no answer");
      if (path === "/call.wav")
        return { ...reply({ "content-type": "audio/wav", "content-length": "5000000" }, ""), isCut: true };
      if (path === "/bare.wav") return { ...reply({ "content-type": "audio/wav" }, ""), isCut: true };
      return /^\/(?:|guide\/)$|^\/app\//.test(path)
        ? reply(HTML, path === "/" ? PAGES : "<!doctype html>")
        : reply({}, "none", 404);
    }),
  );
  expect(sample).toMatchObject({
    directories: ["/", "/app/", "/app/inner/", "/guide/"],
    shells: [{ under: "/app/", links: ["/app/no-such-name-4f1d/42"], declared: false }],
    large: [{ path: "/call.wav", sizeBytes: 5_000_000 }],
    unanswered: ["/no"],
    missingPath: "/no-such-name-4f1d",
    inProcess: false,
    moved: undefined,
  });
  expect(asked.filter((one) => one.startsWith("/guide/no-such-name-4f1d"))).toEqual([
    expect.stringContaining("/guide/no-such-name-4f1d/42 text/html"),
  ]);
});

test("what two sites are asked: what was found, links, folders with and without their slash, and what is not there", () => {
  const resources = [
    { path: "/", kind: "document" },
    { path: "/guide/", kind: "document" },
    { path: "/styles/a.css", kind: "style" },
  ];
  const sample = {
    resources,
    directories: ["/", "/guide/"],
    shells: [{ under: "/app/" }],
    links: { mentions: [{ to: "/styles/a.css" }, { to: "/call.wav" }] },
  } as unknown as Sample;
  const asked = makeQuestions(sample).map(
    ({ path, headers, readAtMost }) =>
      `${path} ${headers["Accept-Encoding"] ?? "-"} ${headers["Sec-Fetch-Mode"] ?? headers["Sec-Fetch-Dest"] ?? "-"} ${readAtMost ?? "whole"}`,
  );
  const missing = ["/", "/guide/", "/app/"].flatMap((under) => [
    `${under}no-such-name-4f1d/42 - navigate whole`,
    `${under}no-such-name-4f1d.js - script whole`,
  ]);
  expect(asked).toEqual([
    "/ gzip, br, zstd navigate whole",
    "/guide/ gzip, br, zstd navigate whole",
    "/styles/a.css gzip, br, zstd - whole",
    `/call.wav gzip, br, zstd - ${2 * MIB}`,
    "/guide - navigate whole",
    "/styles/ - navigate whole",
    ...missing,
  ]);
  const [one] = makeQuestions(sample);
  expect(withoutRepeats([one!, { ...one! }, { ...one!, method: "HEAD" }])).toHaveLength(2);
});
