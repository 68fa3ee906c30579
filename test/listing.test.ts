import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { mkdirSync, symlinkSync, utimesSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { listingSchema } from "../src/config/listing/listing-schema.js";
import { numberPages } from "../src/core/listing/html.js";
import { makeNameKey, selectFirst, sortIndexes } from "../src/core/listing/order.js";
import { parseListingQuery } from "../src/core/listing/query.js";
import {
  LISTING_SCRIPT,
  LISTING_SCRIPT_DIGEST,
  LISTING_STYLE,
  LISTING_STYLE_DIGEST,
} from "../src/core/listing/style.js";
import { escapeHtml } from "../src/core/text/html.js";
import { showName } from "../src/core/text/printable.js";
import { type AreaConfig, memorySource, type Site } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { ask, asNobody, canBeNobody, makeTree } from "./helpers.js";

const HTML = { accept: "text/html,*/*;q=0.8" };
const JSON_ = { accept: "application/json" };

interface Row {
  readonly name: string;
  readonly kind: string;
  readonly href?: string;
  readonly size?: number;
  readonly mediaType?: string;
}
async function list(
  site: Site,
  path = "/",
): Promise<{ total: number; pages: number; page: number; next?: string; entries: Row[] }> {
  const { body, summary } = await ask(site, `GET ${path}`, JSON_);
  expect(summary).toBe("200 listing");
  return listingSchema.parse(JSON.parse(body));
}
const openMemory = (tree: Record<string, string>, rules: AreaConfig): Promise<Site> =>
  openSite({ mounts: [{ source: memorySource(tree), ...rules }] });

describe("a listing is on by rule", () => {
  const tree = {
    "a/x.txt": "x",
    "a/off/y.txt": "y",
    "a/off/on/z.txt": "z",
    "doc/index.html": "d",
    "doc/z.txt": "z",
    "b/x.txt": "x",
  };
  test.each([
    ["off by default", {}, "/a/", "403 no-default-document"],
    ["on for a mount", { listing: true }, "/a/", "200 listing"],
    ["a directory without its slash is redirected to it", { listing: true }, "/a", "301 ./a/"],
    ["a default document wins", { listing: true }, "/doc/", "200 doc/index.html"],
    ["on for an area", { areas: { "/a": { listing: true } } }, "/a/", "200 listing"],
    ["and not beside it", { areas: { "/a": { listing: true } } }, "/b/", "403 no-default-document"],
    [
      "off again below",
      { listing: true, areas: { "/a/off": { listing: false } } },
      "/a/off/",
      "403 no-default-document",
    ],
    [
      "and on again below that",
      { listing: true, areas: { "/a/off": { listing: false }, "/a/off/on": { listing: true } } },
      "/a/off/on/",
      "200 listing",
    ],
    ["kind archive", { kind: "archive" }, "/a/", "200 listing"],
    ["before an app shell", { listing: true, appShell: "/doc/index.html" }, "/a/", "200 listing"],
    ["a missing directory", { listing: true }, "/nope/", "404 no-such-file"],
    ["a withheld directory", { listing: true, withheld: ["a"] }, "/a/", "404 withheld"],
  ])("%s", async (_sentence, rules, path, expected) => {
    expect((await ask(await openMemory(tree, rules as AreaConfig), `GET ${path}`, HTML)).summary).toBe(
      expected,
    );
  });
});

test("what is not listed is left out and served; withheld is neither; prebuilt codings are not listed; an area has its own rules", async () => {
  const tree = {
    "a.txt": "a",
    "a.map": "m",
    "b.bak": "b",
    "app.js": "j",
    "app.js.br": "j",
    "own.br": "o",
    ".env": "e",
    "sub/x.map": "x",
    "sub/y.txt": "y",
    "drafts/d.txt": "d",
  };
  const site = await openMemory(tree, {
    listing: true,
    notListed: ["*.map", "drafts"],
    withheld: ["*.bak"],
    codings: { prebuilt: ["br"] },
    areas: { "/sub": { notListed: ["y.*"] } },
  } as AreaConfig);
  expect((await list(site)).entries.map(({ name }) => name)).toEqual(["sub", "a.txt", "app.js", "own.br"]);
  expect((await list(site, "/sub/")).entries.map(({ name }) => name)).toEqual(["x.map"]);
  expect((await ask(site, "GET /a.map")).summary).toBe("200 a.map");
  expect((await ask(site, "GET /b.bak")).summary).toBe("404 withheld");
  expect((await ask(site, "GET /", HTML)).body).not.toMatch(/b\.bak|\.env|a\.map|drafts/);
  expect((await openMemory(tree, { listing: true, notListed: ["*.key", "*.map"] })).warnings).toEqual([
    'mounts[0].notListed: found "*.key", which leaves private keys out of listings but still sends them to anyone who knows a name; write withheld: ["*.key"] if nobody may have them.',
  ]);
  const keys = await openMemory({ "x.key": "k" }, { listing: true, notListed: ["*.key"] });
  expect((await keys.explain({ method: "GET", target: "/x.key", headers: {} })).hints[0]).toMatch(
    /^It is left out of listings .* add it to withheld if nobody may have it\.$/,
  );
  expect(
    (await (await openMemory(tree, {})).explain({ method: "GET", target: "/drafts/", headers: {} })).hints[0],
  ).toMatch(/^Write listing: true/);
});

describe("hostile names", () => {
  const names = [
    "very".repeat(50),
    ..."plain.txt¦a b¦ lead¦trail ¦a&b¦a<b>c¦<script>alert(1)¦q\"uote'¦line\nbreak¦tab\tname¦javascript:alert(1)¦a:b¦C:¦%2e%2e¦%41¦100%¦q?uery¦ha#sh¦semi;colon¦plus+eq=¦brackets[1]¦{braces}¦é¦e\u0301¦日本語¦אבג.txt¦\u202egpj.exe¦zero\u200bwidth¦~tilde¦*star¦|pipe¦esc\x1b[31m¦emoji 🐦".split(
      "¦",
    ),
  ];
  let tree: Awaited<ReturnType<typeof makeTree>>;
  let site: Site;
  beforeAll(async () => {
    tree = await makeTree({ "root/sub/x.txt": "x", "outside.txt": "o" });
    const root = join(tree.root, "root");
    for (const name of names) writeFileSync(join(root, name), `I am ${name}`);
    mkdirSync(join(root, "dir <&> 'x'"));
    writeFileSync(Buffer.concat([Buffer.from(`${root}/not-utf8-`), Buffer.from([0xff, 0xfe])]), "x");
    writeFileSync(join(root, "back\\slash"), "x");
    writeFileSync(join(root, ".hidden"), "x");
    execFileSync("mkfifo", [join(root, "pipe")]);
    symlinkSync("nowhere", join(root, "broken-link"));
    symlinkSync("../outside.txt", join(root, "out-link"));
    symlinkSync("plain.txt", join(root, "in-link"));
    site = await openSite({ mounts: [{ at: "/arch ive", folder: root, kind: "archive" }] });
  });
  afterAll(() => tree.remove());

  test("every link of the page, read by a URL parser, leads to the file that it names", async () => {
    const base = "http://x.test/arch%20ive/";
    const { body } = await ask(site, "GET /arch%20ive/", HTML);
    const readEntities = (text: string): string =>
      text.replace(
        /&(amp|lt|gt|quot|#39);/g,
        (_, e) => ({ amp: "&", lt: "<", gt: ">", quot: '"', "#39": "'" })[e as "amp"]!,
      );
    const links = [...body.matchAll(/<th scope="row">.*?<a href="([^"]*)"><bdi>(.*?)<\/bdi>/gs)].map(
      ([, href, text]) => ({ href: readEntities(href!), text: readEntities(text!) }),
    );
    const served = new Set<string>();
    for (const { href, text } of links) {
      const url = new URL(href, base);
      expect(url.origin + url.pathname.slice(0, 12)).toBe("http://x.test/arch%20ive/");
      if (href.endsWith("/")) continue;
      const answer = await ask(site, `GET ${url.pathname}`);
      expect(answer.summary.slice(0, 4), text).toBe("200 ");
      const name = answer.body.replace(/^I am /, "");
      served.add(name);
      if (name !== answer.body && text !== "in-link") expect(text).toBe(showName(name));
    }
    expect([...served].sort()).toEqual([...names].sort());
    expect(body).not.toMatch(/<script>alert|\u202e|\u200b|\x1b|\n?<b>c/);
  });

  test("what cannot be had is shown as what it is, without a link, and never opened; withheld and not UTF-8 are left out", async () => {
    const { entries } = await list(site, "/arch%20ive/");
    const of = (name: string): Row | undefined => entries.find((entry) => entry.name === name);
    expect(of("pipe")).toMatchObject({ kind: "special" });
    expect(of("broken-link")).toMatchObject({ kind: "broken" });
    expect(of("out-link")).toMatchObject({ kind: "broken" });
    expect(of("back\\slash")).toMatchObject({ kind: "file" });
    for (const name of ["pipe", "broken-link", "out-link", "back\\slash"])
      expect(of(name)!.href).toBeUndefined();
    expect(of("in-link")).toMatchObject({ kind: "file", href: "in-link" });
    expect(entries.some(({ name }) => name === ".hidden" || name.startsWith("not-utf8"))).toBe(false);
  });

  test("in plain text a name is a line, whatever is in it", async () => {
    const { body, fields } = await ask(site, "GET /arch%20ive/", { accept: "text/plain" });
    expect(fields["content-type"]).toBe("text/plain; charset=utf-8");
    const lines = body.trimEnd().split("\n");
    expect(lines.slice(0, 2)).toEqual(["dir <&> 'x'/", "sub/"]);
    expect(lines).toContain("line\u240abreak");
    // Neither an escape sequence nor anything that reorders a line reaches a terminal.
    expect(body).not.toMatch(/[\x00-\x09\x0b-\x1f\x7f-\x9f\p{Cf}\p{Zl}\p{Zp}]/u);
    expect(lines).toHaveLength((await list(site, "/arch%20ive/")).total);
  });

  test("no name can leave its place in the page", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary" }), (name) => {
        expect(escapeHtml(showName(name))).not.toMatch(
          /[<>"'\x00-\x1f\x7f-\x9f]|&(?!(?:amp|lt|gt|quot|#39);)/,
        );
      }),
    );
  });
});

describe("orders and pages", () => {
  let tree: Awaited<ReturnType<typeof makeTree>>;
  let site: Site;
  beforeAll(async () => {
    tree = await makeTree({
      "record-10.txt": "aa",
      "record-2.txt": "aaaa",
      "record-02.csv": "a",
      "Émile.txt": "aaa",
      "zoo/x": "",
      "apes/x": "",
      "eagle.png": "aaaaaa",
      "record-1.txt": "",
    });
    for (const [i, name] of [
      "record-10.txt",
      "record-2.txt",
      "record-02.csv",
      "Émile.txt",
      "eagle.png",
      "record-1.txt",
    ].entries())
      utimesSync(join(tree.root, name), 1e9 + i, 1e9 + i);
    site = await openSite({ mounts: [{ folder: tree.root, listing: { pageSize: 10 } }] });
  });
  afterAll(() => tree.remove());

  test.each([
    [
      "by name, in natural order, folders first",
      "",
      "apes zoo eagle.png Émile.txt record-1.txt record-02.csv record-2.txt record-10.txt",
    ],
    [
      "by name, turned around",
      "?descending",
      "zoo apes record-10.txt record-2.txt record-02.csv record-1.txt Émile.txt eagle.png",
    ],
    [
      "by size",
      "?order=size",
      "apes zoo record-1.txt record-02.csv record-10.txt Émile.txt record-2.txt eagle.png",
    ],
    [
      "by time",
      "?order=time",
      "apes zoo record-10.txt record-2.txt record-02.csv Émile.txt eagle.png record-1.txt",
    ],
    [
      "by kind, then name",
      "?order=kind",
      "apes zoo eagle.png record-02.csv Émile.txt record-1.txt record-2.txt record-10.txt",
    ],
    [
      "an order that there is not",
      "?order=colour",
      "apes zoo eagle.png Émile.txt record-1.txt record-02.csv record-2.txt record-10.txt",
    ],
  ])("%s", async (_sentence, query, expected) => {
    const { entries } = await list(site, `/${query}`);
    const names = entries.map(({ name }) => name);
    const folders = names.slice(0, 2).sort();
    expect([query === "?order=time" ? [...folders, ...names.slice(2)] : names].flat().join(" ")).toBe(
      expected,
    );
  });

  test("pages: each entry once, the last page for one beyond it, addresses to turn them", async () => {
    const many = await openMemory(
      Object.fromEntries(Array.from({ length: 25 }, (_, i) => [`n${i}.txt`, ""])),
      { listing: { pageSize: 10 } },
    );
    const first = await list(many);
    expect(first).toMatchObject({ total: 25, page: 1, pages: 3, next: "./?page=2" });
    const all = [
      ...first.entries,
      ...(await list(many, "/?page=2")).entries,
      ...(await list(many, "/?page=3")).entries,
    ].map(({ name }) => name);
    expect(all).toEqual(Array.from({ length: 25 }, (_, i) => `n${i}.txt`));
    expect((await list(many, "/?page=99")).page).toBe(3);
    expect((await list(many, "/?order=size&descending&page=2")).next).toBe(
      "./?order=size&amp;descending&amp;page=3".replaceAll("&amp;", "&"),
    );
    const { body } = await ask(many, "GET /?page=2", HTML);
    expect(body).toMatch(
      /11–20 of 25 .*rel="prev" href="\.\/".*aria-current="page".*rel="next" href="\.\/\?page=3"/s,
    );
  });

  test("a large directory: the first page before the others are in order, later pages, and back", async () => {
    const names = Array.from({ length: 1200 }, (_, i) => `n${i}.txt`);
    const many = await openMemory(
      Object.fromEntries(names.map((name, i) => [`sub/${name}`, "x".repeat((i * 7) % 1200)])),
      { listing: { pageSize: 10 } },
    );
    const page = async (query: string): Promise<string[]> =>
      (await list(many, `/sub/?${query}`)).entries.map(({ name }) => name);
    const bySize = names
      .map((_, i) => i)
      .sort((a, b) => ((a * 7) % 1200) - ((b * 7) % 1200) || a - b)
      .map((i) => `n${i}.txt`);
    for (const [query, all] of [
      ["", names],
      ["descending", [...names].reverse()],
      ["order=size", bySize],
      ["order=size&descending", [...bySize].reverse()],
      ["order=kind", names],
    ] as const) {
      for (const n of [1, 3, 120, 1, 7])
        expect([query, n, await page(`${query}&page=${n}`)]).toEqual([
          query,
          n,
          all.slice((n - 1) * 10, n * 10),
        ]);
    }
  });

  describe("a filter searches the whole directory, without a script", () => {
    const names = [
      ...Array.from({ length: 25 }, (_, i) => `ring-${i}.csv`),
      "Émile & co.txt",
      "a+b c.txt",
      "Curlew/x",
    ];
    const open = (rules: object = {}) =>
      openMemory(Object.fromEntries(names.map((name) => [name, ""])), {
        listing: { pageSize: 10, ...rules },
      });
    test.each([
      ["part of a name", "filter=g-1", "g-1", 11, "ring-1.csv ring-10.csv ring-11.csv ring-12.csv"],
      ["whatever its case", "filter=CURLEW", "CURLEW", 1, "Curlew"],
      ["whatever its accents", "filter=emile", "emile", 1, "Émile & co.txt"],
      ["as a form writes it", "filter=a%2Bb+c", "a+b c", 1, "a+b c.txt"],
      ["in the order asked for", "order=name&descending&filter=g-2", "g-2", 6, "ring-24.csv ring-23.csv"],
      ["on its second page", "filter=ring&page=2", "ring", 25, "ring-10.csv ring-11.csv"],
      ["nothing", "filter=avocet", "avocet", 0, ""],
      ["an escape that is not UTF-8: all", "filter=%ff", undefined, 28, "Curlew a+b c.txt"],
    ])("%s", async (_sentence, query, filter, total, first) => {
      const site = await open();
      const found = await list(site, `/?${query}`);
      expect(found).toMatchObject({ total, ...(filter !== undefined && { filter, totalInDirectory: 28 }) });
      expect(
        found.entries
          .map(({ name }) => name)
          .join(" ")
          .startsWith(first),
      ).toBe(true);
      const { body } = await ask(site, `GET /?${query}`, HTML);
      expect(body).toContain(`name="filter" value="${escapeHtml(filter ?? "")}"`);
    });

    test("the page keeps it from link to link, and says of what it is a part; text and programs get it, too", async () => {
      const site = await open();
      const { body, fields } = await ask(site, "GET /?filter=ring&order=size", HTML);
      expect(body).toMatch(
        /<form role="search" data-all="28"><input type="hidden" name="order" value="size">.*1–10 of 25 with “<bdi>ring<\/bdi>” in the name · <a href="\.\/\?order=size">Show all 28<\/a>/s,
      );
      expect(body).toContain('<a rel="nofollow" href="./?filter=ring&amp;order=time">');
      expect(fields.link).toBe('<./?filter=ring&order=size&page=2>; rel="next"');
      const text = await ask(site, "GET /?filter=ring", { accept: "text/plain" });
      expect(text.body.trimEnd().split("\n").at(-1)).toBe("// 15 more: ./?filter=ring&page=2");
      const hostile = await ask(site, 'GET /?filter=%3Cscript%3E"', HTML);
      expect(hostile.body).not.toContain("<script>&quot;");
      expect(hostile.body).toContain("nothing with “<bdi>&lt;script&gt;&quot;</bdi>” in the name");
    });

    test("no field for fewer than 20 names, nor where it is turned off: the query says nothing there", async () => {
      const few = await ask(await openMemory({ "a.txt": "", "b.txt": "" }, { listing: true }), "GET /", HTML);
      expect(few.body).not.toContain("<form");
      const off = await open({ nameFilter: false });
      expect((await list(off, "/?filter=curlew")).total).toBe(28);
      const { body, fields } = await ask(off, "GET /?filter=curlew", HTML);
      expect(body).not.toMatch(/<form|<script/);
      expect(fields["content-security-policy"]).toContain("form-action 'none'");
    });
  });

  test.each<[number, number, string]>([
    [1, 2, "1 2"],
    [1, 5, "1 2 … 5"],
    [3, 5, "1 2 3 4 5"],
    [4, 7, "1 2 3 4 5 6 7"],
    [5, 9, "1 … 4 5 6 … 9"],
    [9, 9, "1 … 8 9"],
    [200, 200, "1 … 199 200"],
  ])("on page %i of %i these are offered: %s", (page, pages, expected) => {
    expect(
      numberPages(page, pages)
        .map((one) => one ?? "…")
        .join(" "),
    ).toBe(expected);
  });

  test("what is left out by a path from the mount's folder, and not by one that only ends like it", async () => {
    const site = await openMemory(
      { "x.map": "", "sub/x.map": "", "sub/y.map": "", "y.map": "" },
      { listing: true, notListed: ["sub/x.map", "/y.map"], withheld: ["sub/y.*"] },
    );
    expect([
      (await list(site)).entries.map(({ name }) => name),
      (await list(site, "/sub/")).entries.map(({ name }) => name),
    ]).toEqual([["sub", "x.map"], []]);
  });

  test("a query is read or left at its default, whatever it is", () => {
    fc.assert(
      fc.property(
        fc.string({ unit: "binary" }),
        (text) => parseListingQuery(`?${text}`, { order: "name", nameFilter: true }).page > 0,
      ),
    );
  });

  test("natural order agrees with a slow model, in steps and in one go", async () => {
    const collator = new Intl.Collator("en", { numeric: true });
    const name = fc.stringMatching(/^[a-c]{0,2}[0-9]{0,4}[a-c]{0,2}$/);
    await fc.assert(
      fc.asyncProperty(fc.uniqueArray(name, { maxLength: 30 }), async (names) => {
        const keys = names.map(makeNameKey);
        const sorted = Array.from(await sortIndexes(keys, async () => {}), (i) => names[i]!);
        for (let i = 1; i < sorted.length; i++)
          expect(collator.compare(sorted[i - 1]!, sorted[i]!)).toBeLessThanOrEqual(0);
      }),
    );
    const large = Array.from({ length: 30_000 }, (_, i) => makeNameKey(`x${(i * 7919) % 30_000}`));
    const sorted = await sortIndexes(large, async () => {});
    expect(Array.from(sorted, (i) => large[i]!)).toEqual([...large].sort());
    const first = await selectFirst({ total: large.length, keyOf: (i) => large[i]! }, 700, async () => {});
    expect(Array.from(first, (i) => large[i]!)).toEqual([...large].sort().slice(0, 700));
  });
});

test("long work pauses, again and again, so that others have their turn", async () => {
  const keys = Array.from({ length: 50_000 }, (_, i) => String((i * 7919) % 50_000).padStart(5, "0"));
  let pauses = 0;
  const pause = async (): Promise<void> => void pauses++;
  const sorted = await sortIndexes(keys, pause);
  const bySorting = pauses;
  const first = await selectFirst({ total: keys.length, keyOf: (i) => keys[i]! }, 10, pause);
  expect([bySorting, pauses - bySorting, [...first]]).toEqual([22, 12, [...sorted.subarray(0, 10)]]);
});

test("HEAD, validators, forms and fields", async () => {
  const site = await openMemory({ "a.txt": "a", "b.csv": "b" }, { listing: true });
  for (const [headers, type] of [
    [HTML, "text/html; charset=utf-8"],
    [JSON_, "application/json"],
    [{}, "text/html; charset=utf-8"],
    [{ accept: "*/*" }, "text/html; charset=utf-8"],
    [{ accept: "text/plain" }, "text/plain; charset=utf-8"],
    [{ accept: "image/png" }, "text/html; charset=utf-8"],
  ] as const) {
    const get = await ask(site, "GET /", { ...headers });
    const head = await ask(site, "HEAD /", { ...headers });
    expect(get.fields).toMatchObject({
      "content-type": type,
      vary: "Accept, Accept-Encoding",
      "cache-control": "no-cache",
      "content-length": String(new TextEncoder().encode(get.body).length),
    });
    expect([head.body, head.fields]).toEqual(["", get.fields]);
    const current = await ask(site, "GET /", { ...headers, "if-none-match": get.fields.etag! });
    expect([current.summary, current.fields.vary, current.fields.etag]).toEqual([
      "304 listing",
      "Accept, Accept-Encoding",
      get.fields.etag,
    ]);
    if (type === "text/html; charset=utf-8")
      expect(get.fields["content-security-policy"]).toMatch(
        /^default-src 'none'; style-src 'sha256-[^']+'; script-src 'sha256-[^']+'; img-src data:; frame-ancestors 'none'/,
      );
  }
});

test("a theme: title, sentences, style sheet, no filter; a rendering of one's own gets plain data", async () => {
  const tree = { "sub/a.txt": "a", "sub/b.txt": "b" };
  const themed = await ask(
    await openMemory(tree, {
      listing: {
        title: "A & B",
        header: "<above>",
        footer: "below",
        styleSheet: "/own.css",
        nameFilter: false,
      },
    }),
    "GET /sub/",
    HTML,
  );
  expect(themed.body).toMatch(
    /<title>sub · A &amp; B<\/title>.*<link rel="stylesheet" href="\/own\.css">.*<a rel="up" href="\.\.\/">A &amp; B<\/a>.*&lt;above&gt;.*<footer>below<\/footer>/s,
  );
  expect(themed.body).not.toContain("<script");
  expect(themed.fields["content-security-policy"]).toMatch(/style-src 'sha256-[^']+' 'self'; font-src/);
  const deep = await ask(
    await openMemory({ "sub/d <e/a.txt": "a" }, { listing: true }),
    "GET /sub/d%20%3Ce/",
    HTML,
  );
  expect(deep.body).toContain(
    '<li><a href="../../">Files</a></li><li><a rel="up" href="../"><bdi>sub</bdi></a></li><li aria-current="page"><bdi>d &lt;e</bdi></li>',
  );
  const own = await openMemory(tree, {
    listing: {
      render: ({ path, entries }, form) =>
        form === "text/html"
          ? {
              mediaType: "text/html; charset=utf-8",
              body: `${path}: ${entries.map(({ name, href }) => `${name}=${href}`)}`,
            }
          : undefined,
    },
  });
  expect(await ask(own, "GET /sub/", HTML)).toMatchObject({
    body: "/sub/: a.txt=a.txt,b.txt=b.txt",
    fields: expect.not.objectContaining({ "content-security-policy": expect.anything() }),
  });
  expect((await list(own, "/sub/")).total).toBe(2);
  expect(
    (await ask(await openMemory(tree, { listing: true, notListed: ["*"] }), "GET /", HTML)).body,
  ).toContain("<span>nothing here ");
});

test.runIf(canBeNobody)(
  "of what a link leads to and is withheld nothing is told; what may not be read is shown as that",
  async () => {
    const tree = await makeTree({
      "secret/keys.txt": "keys",
      ".env": "env",
      "to-env": { link: ".env" },
      "to-keys": { link: "secret/keys.txt" },
      "closed.txt": "c",
      "vault/x": "x",
      "open.txt": "o",
    });
    await tree.forbid("closed.txt", "vault");
    const site = await openSite({ mounts: [{ folder: tree.root, listing: true, withheld: ["secret"] }] });
    const rows = (await asNobody(() => list(site))).entries;
    const shown = (kind: string): string[] => rows.filter((row) => row.kind === kind).map(({ name }) => name);
    expect([shown("broken"), shown("unreadable"), shown("file"), shown("directory")]).toEqual([
      ["to-env", "to-keys"],
      ["vault", "closed.txt"],
      ["open.txt"],
      [],
    ]);
    expect(
      rows
        .filter(({ kind }) => kind !== "file")
        .every(({ href, size }) => href === undefined && size === undefined),
    ).toBe(true);
    await tree.remove();
  },
);

test("through a link to a directory, what is withheld where it lies is neither listed nor walked", async () => {
  const tree = await makeTree({
    "real/secret.txt": "s",
    "real/open.txt": "o",
    "real/deep/secret.txt": "s",
    "real/deep/open.txt": "o",
    alias: { link: "real" },
    "far/near": { link: "../real/deep" },
  });
  const site = await openSite({
    mounts: [{ folder: tree.root, listing: true, withheld: ["real/secret.txt", "real/deep/secret.txt"] }],
  });
  const names = async (path: string) => (await list(site, path)).entries.map(({ name }) => name);
  expect([await names("/alias/"), await names("/alias/deep/"), await names("/far/near/")]).toEqual([
    ["deep", "open.txt"],
    ["open.txt"],
    ["open.txt"],
  ]);
  const walked: string[] = [];
  for await (const { path } of site.files()) walked.push(path);
  expect(walked.filter((path) => path.includes("secret"))).toEqual([]);
  expect(walked).toContain("/alias/open.txt");
  expect((await ask(site, "GET /alias/secret.txt")).summary).toBe("404 withheld");
  await tree.remove();
});

test("a directory that changes is listed anew", async () => {
  const tree = await makeTree({ "a.txt": "a" });
  const site = await openSite({ mounts: [{ folder: tree.root, listing: true }] });
  const names = async (): Promise<string[]> =>
    (await list(site)).entries.map(({ name, size }) => `${name} ${size}`);
  expect(await names()).toEqual(["a.txt 1"]);
  writeFileSync(join(tree.root, "b.txt"), "bb");
  writeFileSync(join(tree.root, "a.txt"), "aaa");
  expect(await names()).toEqual(["a.txt 3", "b.txt 2"]);
  for (let i = 0; i < 30; i++) {
    writeFileSync(join(tree.root, `n${i}`), "");
    expect((await list(site)).total).toBe(3 + i);
  }
  await tree.remove();
});

test("the policy lets the listing's own style and filter through, by their digests", () => {
  const digest = (text: string): string => createHash("sha256").update(text).digest("base64");
  expect([digest(LISTING_STYLE), digest(LISTING_SCRIPT)]).toEqual([
    LISTING_STYLE_DIGEST,
    LISTING_SCRIPT_DIGEST,
  ]);
});

test("for programs: all rows, names that survive them, the way to the next page, and fewer bytes", async () => {
  const files = Object.fromEntries(
    Array.from({ length: 25 }, (_, index) => [`archive/${String(index).padStart(2, "0")}.txt`, ""]),
  );
  const tree = await makeTree({ ...files, "odd/a:b.txt": "", "odd/it's.txt": "" });
  const site = await openSite({
    mounts: [
      { folder: tree.root, listing: { pageSize: 10 }, areas: { "/odd": { listing: { pageSize: "all" } } } },
    ],
  });
  const text = await ask(site, "GET /archive/?page=2", { accept: "text/plain" });
  expect(text.body.split("\n").slice(-3)).toEqual(["19.txt", "// 5 more: ./?page=3", ""]);
  expect(text.fields.link).toBe('<./>; rel="prev", <./?page=3>; rel="next"');
  const page = await ask(site, "GET /odd/", {});
  expect(page.body).toMatch(/href="a%3Ab.txt"[\s\S]*href="it%27s.txt"/);
  expect(page.body).toContain('<a rel="nofollow" href="./?order=size">');
  const plan = await site.respond({
    method: "GET",
    target: "/archive/",
    headers: { "accept-encoding": "gzip" },
  });
  const { body } = plan as { body: { bytes: Uint8Array } };
  expect(gunzipSync(body.bytes).toString()).toBe((await ask(site, "GET /archive/", {})).body);
  expect((plan as { fields: { get(name: string): string } }).fields.get("Vary")).toBe(
    "Accept, Accept-Encoding",
  );
  expect(body.bytes.length).toBeLessThan(5000);
  await tree.remove();
});
