import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, relative } from "node:path";
import { gzipSync } from "node:zlib";
import { afterAll, expect, test } from "vitest";
import { parse } from "yaml";
import { startServer } from "../../src/adapters/node.js";
import { type MemoryTree, memorySource, type ServedEntry, type SiteConfig } from "../../src/index.js";
import { makeBaseline } from "../../src/testing/accepted.js";
import { compareSites, differs } from "../../src/testing/compare/compare.js";
import { observeRecording } from "../../src/testing/draft/from-har.js";
import { observeSite } from "../../src/testing/draft/from-site.js";
import { writeDraft } from "../../src/testing/draft/write.js";
import {
  type Asker,
  askServer,
  askSite,
  type CaseResult,
  expandCases,
  loadExpectations,
  runCases,
  runPacks,
} from "../../src/testing/index.js";
import { PACK_NAMES } from "../../src/testing/packs/names.js";
import { makePackCases } from "../../src/testing/packs/packs.js";
import { describeFailure, formatFailure } from "../../src/testing/reports/failure.js";
import { reportHar } from "../../src/testing/reports/har.js";
import { reportHtml } from "../../src/testing/reports/html.js";
import { reportJson } from "../../src/testing/reports/json.js";
import { reportJunit } from "../../src/testing/reports/junit.js";
import type { Run } from "../../src/testing/reports/run.js";
import { reportSarif } from "../../src/testing/reports/sarif.js";
import { reportTap } from "../../src/testing/reports/tap.js";
import { openSite } from "../counting-source.js";

// What a draft says of a site, to the last character; written anew with `npx vitest run -u test/testing/golden.test.ts`.
const folder = mkdtempSync(join(tmpdir(), "epistyle-draft-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const PAGE = (title: string, more = ""): string =>
  `<!doctype html><title>${title}</title>${more}<p>${"Larkholm ".repeat(300)}`;
const TREE: MemoryTree = {
  "index.html": PAGE(
    "Larkholm",
    '<link rel=stylesheet href="/styles/site.css"><a href="/guide/">Guide</a><a href="/guide/tern.html">Tern</a><img src="/plates/tern.png"><a href="/records/2026.csv">Records</a><script src="/app-5f3a91bc.js"></script>',
  ),
  "404.html": PAGE("Nothing here"),
  "guide/index.html": PAGE("The field guide"),
  "guide/tern.html": PAGE("A title: with $" + "{braces} and # signs"),
  "guide/no-title.html": "<p>plain",
  "styles/site.css": `p{${"color:#000;".repeat(200)}}`,
  "plates/tern.png": "png",
  "plates/gull.png": "png",
  "app-5f3a91bc.js": "run()",
  "lib-77aa91bd.js": "run()",
  "records/2026.csv": "a,b\n".repeat(500),
  "records/2025.csv": "a,b\n",
  "calls/tern.ogg": "x".repeat(3000),
  "assets/site-5f3a91bc.css": "a",
  "assets/more-77aa91bd.css": "b",
  "assets/deep/other-12aa91bd.css": "c",
  "assets/logo.svg": "<svg xmlns='http://www.w3.org/2000/svg'/>",
  "mixed/one-5f3a91bc.mjs": "1",
  "mixed/two.mjs": "2",
  "odd (1)/one-5f3a91bc.wasm": "1",
  ...Object.fromEntries(
    Array.from({ length: 301 }, (_, i) => [`many/part-${(0x5f3a0000 + i).toString(16)}.geojson`, "{}"]),
  ),
  "report.pdf": "%PDF-",
  unnamed: "\0",
  "old.bak": "b",
  "server.key": "k",
  "package.json": "{}",
};
const RULES: SiteConfig["mounts"][number] = {
  impliedExtensions: [".html"],
  errorPages: { 404: "/404.html" },
  withheld: ["*.bak", "*.key"],
  downloads: ["*.pdf"],
  caching: [
    { files: "fingerprinted", policy: "immutable" },
    { files: "*.csv", policy: { maxAge: "10m" } },
  ],
};
const open = () =>
  openSite({
    mounts: [
      { source: memorySource(TREE, { modified: new Date("2026-09-28T06:30:00Z") }), ...RULES },
      {
        at: "/explorer",
        source: memorySource({ "index.html": PAGE("Explorer"), "assets/a-5f3a91bc.js": "a" }),
        kind: "app",
      },
      { at: "/archive", source: memorySource({ "a.txt": "a", "b/c.txt": "c" }), kind: "archive" },
    ],
  });

test("of a site in this process, and it holds of that site", async () => {
  const site = await open();
  const asker = askSite(site);
  const draft = await writeDraft(await observeSite(asker, site, []), {
    about: "the folder public",
    asker,
    command: "epistyle check FILE --folder public",
  });
  await expect(draft).toMatchFileSnapshot("../fixtures/golden/draft-site.yaml");
  const file = join(folder, "site.yaml");
  writeFileSync(file, draft);
  const served: ServedEntry[] = [];
  for await (const entry of site.files()) served.push(entry);
  const results = await runCases(await expandCases(await loadExpectations(file), async () => served), asker);
  expect(
    results
      .filter(({ outcome }) => outcome !== "passed")
      .map((one) => `${one.case.name}: ${JSON.stringify(one.exchanges)}`),
  ).toEqual([]);
});

test("of a server, by the links of its pages and what a person names", async () => {
  const server = await startServer(await open(), { port: 0 });
  const asker = askServer(server.url);
  const draft = await writeDraft(
    await observeSite(asker, undefined, ["/explorer/", "/report.pdf", "/none"]),
    { about: server.url, against: server.url, asker, command: "epistyle check FILE" },
  );
  await asker.close();
  await server.close();
  await expect(draft.replaceAll(server.url, "http://larkholm.invalid/")).toMatchFileSnapshot(
    "../fixtures/golden/draft-server.yaml",
  );
});

test("of a recording", async () => {
  const entry = (
    method: string,
    url: string,
    status: number,
    headers: Record<string, string>,
    text?: string,
    sent: Record<string, string> = {},
  ) => {
    const list = (fields: Record<string, string>) =>
      Object.entries(fields).map(([name, value]) => ({ name, value }));
    return {
      request: { method, url, headers: list(sent) },
      response: {
        status,
        headers: list(headers),
        content: { mimeType: headers["Content-Type"] ?? "", ...(text === undefined ? {} : { text }) },
      },
    };
  };
  const at = "https://larkholm.invalid";
  const html = { "Content-Type": "text/html; charset=utf-8", "Cache-Control": "no-cache" };
  const entries = [
    entry("GET", "data:text/plain,x", 200, {}),
    entry(
      "GET",
      `${at}/style.css`,
      200,
      { "Content-Type": "text/css", "Cache-Control": "max-age=600", "Content-Encoding": "br" },
      "p{}",
    ),
    entry("GET", `${at}/`, 200, { ...html, ":status": "200" }, "<title>Larkholm</title>", {
      Accept: "text/html,*/*;q=0.8",
      "Accept-Encoding": "br",
      "Accept-Language": "en",
      Cookie: "a=1",
    }),
    entry("GET", `${at}/`, 304, {}, "", { "If-None-Match": '"x"' }),
    entry("GET", `${at}/guide`, 301, { Location: "/guide/" }),
    entry("GET", `${at}/whole`, 307, { Location: `${at}/guide/` }),
    entry("GET", `${at}/package.json`, 200, { "Content-Type": "application/json" }, "{}"),
    entry("GET", `${at}/old.css.bak`, 404, { "Content-Type": "text/html" }, "none"),
    entry("GET", `${at}/guide/?from=mail#top`, 200, html, "<title>Guide</title>"),
    entry("GET", `${at}/moved`, 302, { Location: "https://elsewhere.invalid/" }),
    entry(
      "GET",
      `${at}/call.ogg`,
      206,
      { "Content-Type": "audio/ogg", "Content-Range": "bytes 0-1/5" },
      "ru",
      { Range: "bytes=0-1" },
    ),
    entry(
      "GET",
      `${at}/app-5f3a91bc.js`,
      200,
      { "Content-Type": "text/javascript", "Cache-Control": "max-age=31536000, immutable" },
      "run()",
    ),
    {
      ...entry("GET", `${at}/plan`, 200, {}),
      response: {
        status: 200,
        headers: [],
        content: { mimeType: "application/pdf", text: "JVBERi0=", encoding: "base64" },
      },
    },
    { ...entry("GET", `${at}/bare.zip`, 200, {}), response: { status: 200, headers: [] } },
    entry("GET", `${at}/none`, 404, { "Content-Type": "text/html" }, "gone"),
    entry("GET", `${at}/broken`, 0, {}),
    entry("POST", `${at}/api`, 201, {}),
    entry("GET", `${at}/api/birds.json`, 200, { "Content-Type": "application/json" }, "{}"),
    entry("GET", "https://other.invalid/x.js", 200, { "Content-Type": "text/javascript" }),
    ...["png", "webp", "svg", "woff2"].map((extension) =>
      entry("GET", `${at}/plate.${extension}`, 200, {
        "Content-Type": extension === "woff2" ? "font/woff2" : `image/${extension}`,
      }),
    ),
  ];
  const file = join(folder, "visit.har");
  writeFileSync(file, JSON.stringify({ log: { version: "1.2", entries } }));
  const { address, observed } = await observeRecording(file);
  expect(address).toBe(at);
  const draft = await writeDraft(observed, {
    about: `${address}, recorded in visit.har,`,
    against: `${address}/`,
    command: "epistyle check FILE",
  });
  await expect(draft).toMatchFileSnapshot("../fixtures/golden/draft-recording.yaml");
  expect(parse(draft).against).toBe(`${at}/`);
});

test("what the packs ask of a site, and what must hold", async () => {
  const site = await open();
  const names = [...PACK_NAMES];
  const cases = await makePackCases(names, {
    asker: askSite(site),
    site,
    paths: ["/explorer/birds/tern", "/report.pdf"],
  });
  // Of cases that ask the same of several addresses, the first one stands for all.
  const kinds = new Map(
    cases
      .map(
        (one) =>
          [
            `${one.group} ${one.name.replaceAll(one.question.path, "").replaceAll(/\/[\w./-]*/g, "")}`,
            one,
          ] as const,
      )
      .reverse(),
  );
  const told = [...kinds.values()]
    .reverse()
    .map(({ group, name, question: { method, path, headers }, checks, followUps, skip, reason }) =>
      [
        `${group}: ${name}`,
        `  ${method} ${path} ${JSON.stringify(headers)}`.replace(
          /\w{3}, \d{2} \w{3} \d{4} [\d:]{8} GMT/g,
          "DATE",
        ),
        ...checks.map(({ about, expected }) => `  ${about}: ${expected}`),
        ...followUps.map((one) => `  then: ${one.name}`),
        `  ${skip ?? reason}`,
      ].join("\n"),
    );
  await expect(`${told.join("\n")}\n`).toMatchFileSnapshot("../fixtures/golden/packs.txt");
  const results = await runPacks(site, names, { paths: ["/explorer/birds/tern", "/report.pdf"] });
  // One is found out: the project's own file lies among those that are served.
  expect(results.filter(({ outcome }) => outcome === "failed").map((one) => one.case.name)).toEqual([
    "/package.json (the project itself)",
  ]);
});

test("two answers that differ, and what may be behind it", async () => {
  const page = { "content-type": "text/html; charset=utf-8" };
  const html = { accept: "text/html" };
  const date = {
    older: { "last-modified": "Thu, 01 Jan 2026 00:00:00 GMT" },
    newer: { "last-modified": "Fri, 02 Jan 2026 00:00:00 GMT" },
  };
  const bundle = (name: string): string => `<title>x</title><script src="/assets/app-${name}.js"></script>`;
  type Given = [status: number, headers?: Record<string, string>, body?: string | Uint8Array] | Error;
  const pairs: [path: string, headers: Record<string, string>, here: Given, there: Given][] = [
    [
      "/same.txt",
      {},
      [200, { "content-type": "text/plain" }, "a"],
      [200, { "content-type": "text/plain" }, "a"],
    ],
    ["/app/deep/link", html, [200, page, "<title>app</title>"], [404, page, "none"]],
    ["/deep", html, [404, page], [200, page, "<title>app</title>"]],
    ["/deep", { Accept: "*/*" }, [404, page], [200, page, "<title>app</title>"]],
    ["/lib.js", {}, [200, page, "<title>app</title>"], [404, page]],
    ["/page.html", {}, [200, page, "<title>app</title>"], [404, page]],
    ["/a.png", {}, [404, page], [200, { "content-type": "image/png" }, "png"]],
    ["/b.png", {}, [404, page], [403, page]],
    ["/c.png", {}, [200, {}], [401, {}]],
    ["/c.png", {}, [407, {}], [200, {}]],
    ["/c.png", {}, [200, {}], [429, {}]],
    ["/c.png", {}, [503, {}], [200, {}]],
    ["/c.png", {}, [500, {}], [200, {}]],
    ["/guide", {}, [200, {}], [301, { location: "https://larkholm.invalid/guide" }]],
    ["/guide", {}, [308, { location: "/guide/" }], [200, {}]],
    ["/guide", {}, [301, { location: "/guide/" }], [302, { location: "/elsewhere/" }]],
    ["/old.css", {}, [200, { age: "0", via: "1.1 a" }, "a"], [200, { age: "7200", via: "1.1 cache" }, "b"]],
    ["/old.css", {}, [200, { age: "60" }, "a"], [200, {}, "b"]],
    ["/old.css", {}, [200, { age: "x60" }, "a"], [200, {}, "b"]],
    ["/old.css", {}, [200, { age: "60" }, "a"], [404, {}]],
    ["/old.css", {}, [200, { age: "60", "x-is": "a" }, "a"], [200, { age: "0" }, "a"]],
    ["/many", {}, [300, {}, "a"], [300, {}, "b"]],
    ["/old.css", {}, [200, { age: "none" }, "a"], [200, {}, "b"]],
    [
      "/zip.css",
      {},
      [200, { etag: '"a"' }, "a"],
      [200, { "content-encoding": "gzip", etag: '"b"', vary: "Accept-Encoding" }, gzipSync("a")],
    ],
    [
      "/zip.css",
      {},
      [200, { "content-encoding": "gzip", etag: 'W/"b"' }, gzipSync("a")],
      [200, { etag: '"a"' }, "a"],
    ],
    [
      "/zip.css",
      {},
      [200, { etag: '"a"' }, "a"],
      [200, { "content-encoding": "gzip", etag: '"b"', via: "1.1 edge" }, gzipSync("a")],
    ],
    ["/zip.css", {}, [200, { etag: '"a"' }, "a"], [200, { "content-encoding": "gzip" }, gzipSync("a")]],
    ["/zip.css", {}, [200, { "content-encoding": "br" }, "what is not br"], [200, {}, "a"]],
    [
      "/tag.css",
      {},
      [200, {}, "a"],
      [200, { etag: '"a"', "last-modified": "Thu, 01 Jan 2026 00:00:00 GMT" }, "a"],
    ],
    ["/tag.css", {}, [200, { etag: '"a"' }, "a"], [200, { via: "1.1 edge" }, "a"]],
    ["/", html, [200, page, bundle("5f3a91bc")], [200, page, bundle("77aa91bd")]],
    ["/", html, [200, page, bundle("5f3a91bc")], [200, page, `${bundle("5f3a91bc")}<p>more`]],
    [
      "/x.txt",
      {},
      [200, { "content-type": "text/plain", ...date.older }, "one\ntwo\nthree"],
      [200, { "content-type": "text/plain", ...date.newer }, "one\ntwo\nfour"],
    ],
    [
      "/x.txt",
      {},
      [200, { "content-type": "text/plain", ...date.newer }, "one"],
      [200, { "content-type": "text/plain", ...date.older }, "one\ntwo"],
    ],
    [
      "/x.txt",
      {},
      [200, { "content-type": "text/plain" }, `${"Larkholm ".repeat(20)}tern${" and so on".repeat(20)}`],
      [200, { "content-type": "text/plain" }, `${"Larkholm ".repeat(20)}gull${" and so on".repeat(20)}`],
    ],
    [
      "/x.bin",
      {},
      [200, { "content-type": "image/png" }, "abcdef"],
      [200, { "content-type": "image/png" }, "abXdef"],
    ],
    [
      "/x.bin",
      {},
      [200, { "content-type": "image/png" }, "abcdef"],
      [200, { "content-type": "image/png" }, "abc"],
    ],
    [
      "/x.txt",
      {},
      [200, { "content-type": "text/plain" }, "one\ntwo"],
      [200, { "content-type": "text/plain" }, "one"],
    ],
    [
      "/x.txt",
      {},
      [200, { "content-type": "text/plain" }, "one"],
      [200, { "content-type": "text/plain; x" }, "one\n"],
    ],
    [
      "/x.woff2",
      {},
      [200, { "content-type": "font/woff2" }, "a"],
      [200, { "content-type": "application/octet-stream" }, "a"],
    ],
    ["/x.webp", {}, [200, {}, "a"], [200, { "content-type": "image/webp" }, "a"]],
    [
      "/x.geojson",
      {},
      [200, { "content-type": "application/geo+json" }, "{}"],
      [200, { "content-type": "text/plain" }, "{}"],
    ],
    ["/x.jpg", {}, [200, { "content-type": "image/jpeg" }, "a"], [200, { "content-type": "image/png" }, "a"]],
    [
      "/x",
      {},
      [200, { "content-type": "image/jpeg" }, "a"],
      [200, { "content-type": "application/octet-stream" }, "a"],
    ],
    [
      "/x.css",
      {},
      [200, { "content-type": "text/css; charset=utf-8" }, "a"],
      [200, { "content-type": "text/css" }, "a"],
    ],
    [
      "/x.json",
      {},
      [200, { "content-type": "application/json; charset=utf-8" }, "1"],
      [200, { "content-type": "application/json" }, "1"],
    ],
    ["/x.css", {}, [200, { "x-content-type-options": "nosniff" }, "a"], [200, {}, "a"]],
    [
      "/x.css",
      {},
      [200, {}, "a"],
      [
        200,
        {
          "x-content-type-options": "nosniff",
          "content-security-policy": "x",
          "cross-origin-opener-policy": "same-origin",
        },
        "a",
      ],
    ],
    [
      "/x.css",
      {},
      [200, { "x-content-type-options": "nosniff" }, "a"],
      [200, { "referrer-policy": "no-referrer" }, "a"],
    ],
    [
      "/x.css",
      {},
      [200, { "cache-control": "no-cache" }, "a"],
      [200, { "cache-control": "max-age=60" }, "a"],
    ],
    ["/x.css", {}, [200, { date: "then" }, "a"], [200, { date: "now" }, "a"]],
    ["/x.css", {}, [200, {}, "a"], new Error("nothing listens there")],
    ["/x.css", {}, new Error("no answer within 1 second"), new Error("nothing listens there")],
    ...["a", "b", "c"].map((name): [string, Record<string, string>, Given, Given] => [
      `/whole/${name}.css`,
      {},
      [200, {}, "a"],
      [404, {}],
    ]),
    ["/whole/none", {}, [404, {}], [403, {}]],
    ...["a", "b"].map((name): [string, Record<string, string>, Given, Given] => [
      `/half/${name}.css`,
      {},
      [404, {}],
      [200, {}, "a"],
    ]),
    ...["a", "b", "c", "d"].map((name): [string, Record<string, string>, Given, Given] => [
      `/partly/${name}.css`,
      {},
      [404, {}],
      [200 + Number(name === "d") * 4, {}, ""],
    ]),
  ];
  const asker = (side: 2 | 3): Asker => ({
    about: "",
    address: side === 2 ? "http://here.invalid" : "http://there.invalid",
    concurrency: side,
    async ask({ path, headers: { row } }) {
      const given = pairs[Number(row)]![side];
      if (given instanceof Error) throw given;
      const [status, headers = {}, body = ""] = given;
      expect(path).toBe(pairs[Number(row)]![0]);
      return {
        status,
        headers,
        body: typeof body === "string" ? new TextEncoder().encode(body) : body,
        inside: undefined,
      };
    },
    close: async () => {},
  });
  const questions = pairs.map(([path, headers], row) => ({
    method: "GET",
    path,
    headers: { ...headers, row: String(row) },
  }));
  const done: number[] = [];
  const comparisons = await compareSites(questions, asker(2), asker(3), (count) => done.push(count));
  expect(done).toEqual(pairs.map((_, row) => row + 1));
  const told = comparisons.map((one) => {
    const { unanswered, status, fields, body, reasons, refused } = one;
    const lines = [
      status && `status: ${status.here} / ${status.there}`,
      ...fields.map(
        ({ name, here, there, noise }) => `${name}: ${here} / ${there}${noise ? ", which nobody minds" : ""}`,
      ),
      body && `body: ${body.here} / ${body.there}`,
    ];
    if (unanswered !== undefined)
      lines.push(`no answer: ${unanswered.here ?? "has one"} / ${unanswered.there ?? "has one"}`);
    return [
      `${one.question.path} ${differs(one) ? "differs" : "is the same"}${refused ? ", refused by both" : ""}`,
      ...lines.flatMap((line) => line ?? []),
      ...reasons.map((reason) => `because ${reason}`),
    ].join("\n  ");
  });
  await expect(`${told.join("\n")}\n`).toMatchFileSnapshot("../fixtures/golden/compare.txt");
});

test("a run as each report tells it", async () => {
  const site = await open();
  const asker = askSite(site);
  const file = join(folder, "cases.yaml");
  const failing = [
    "version: 1",
    "cases:",
    "  - { name: the front page, request: GET /, expect: { status: 404, mediaType: text/plain, body: { contains: none of it } } }",
    "  - { name: it holds, request: 'GET /guide/?from=mail&b', expect: { status: 200 }, alsoAsk: [revisit, head, range] }",
    "  - { name: a file that is missing, request: GET /none.png, expect: { status: 200 } }",
    '  - { name: kept, request: { path: /records/2026.csv, headers: { Accept: "*/*" } }, expect: { caching: immutable, headers: { X-Frame-Options: DENY } } }',
    "  - { name: elsewhere, request: GET /, only: over the network, expect: { status: 200 } }",
    "  - { name: what is withheld, request: GET /server.key, expect: { status: 200 } }",
  ];
  writeFileSync(file, failing.join("\n"));
  const cases = await expandCases(await loadExpectations(file), undefined);
  const results = await runCases(cases, asker, { keepTexts: true });
  // Times are another thing each time.
  const timed = results.map((one, i) => ({
    ...one,
    milliseconds: 7 * i + 3,
    exchanges: one.exchanges.map((exchange) => ({ ...exchange, milliseconds: 2 })),
  }));
  const run: Run = {
    title: "cases.yaml",
    about: "the folder public",
    address: asker.address,
    inProcess: true,
    inFile: true,
    startedAt: Date.UTC(2026, 10, 25),
    milliseconds: 1234,
    results: timed,
  };
  // Over the network, of a pack: one without an answer, one that could be better, one that is known, one that is wrong now and then.
  const [front, holds, gone] = timed as unknown as [CaseResult, CaseResult, CaseResult];
  const of = (one: CaseResult, name: string, more: object, change: object = {}): CaseResult => ({
    ...one,
    ...more,
    case: { ...one.case, name, group: "codings", position: undefined, ...change },
  });
  const silent = of(holds, "/, for a browser", {
    outcome: "unanswered",
    exchanges: [{ ...holds.exchanges[0]!, reply: undefined, because: "no answer within 1 second" }],
  });
  const better = of(
    front,
    "/ is compressed",
    { outcome: "advised" },
    { advice: "Compress texts, so that they take less time." },
  );
  const known = makeBaseline([
    { case: "codings: *.png", about: "status", reason: "the picture comes in spring" },
  ]).judge(of(gone, "/none.png", {}));
  const now = of(gone, "/none.png, of 5 times", { badTimes: 2 }, { times: 5 });
  const other: Run = {
    ...run,
    title: "codings",
    about: "http://larkholm.invalid",
    address: "http://larkholm.invalid",
    inProcess: false,
    inFile: false,
    milliseconds: 12_345,
    results: [silent, better, known, now],
  };
  const runs = [run, other];
  const reports = {
    "report.tap": reportTap(runs),
    "report.junit.xml": reportJunit(runs),
    "report.json": reportJson(runs),
    "report.sarif": reportSarif(runs),
    "report.har": reportHar(runs, "1.0"),
    "report.html": reportHtml(runs),
    "report.txt": runs
      .flatMap(({ results: all }) => all.map((one) => formatFailure(describeFailure(one))))
      .join("\n\n"),
  };
  for (const [name, text] of Object.entries(reports)) {
    const steady = text
      .replaceAll(folder, "FOLDER")
      .replaceAll(relative(process.cwd(), folder), "FOLDER")
      .replace(/\d{4}-\d\d-\d\dT[\d:.]+Z/g, "TIME")
      .replace(/"time": ?\d[\d.]*|"wait": ?\d[\d.]*/g, '"time":0')
      .replace(/<style>[^<]*<\/style>/, "");
    await expect(steady).toMatchFileSnapshot(`../fixtures/golden/${name}.txt`);
  }
});

test.each<[string, string, RegExp]>([
  ["no.har", "not json", /no\.har.*: /],
  [
    "empty.har",
    '{"log":{"entries":[]}}',
    /empty\.har: found no request with an answer; record a visit to the site/,
  ],
  [
    "deep.har",
    `{"log":${"[".repeat(50_000)}${"]".repeat(50_000)}}`,
    /deep\.har: values are nested more than 100 levels deep/,
  ],
  ["other.har", '{"log":{}}', /other\.har: /],
])("a recording that is none: %s", async (name, text, message) => {
  writeFileSync(join(folder, name), text);
  await expect(observeRecording(join(folder, name))).rejects.toThrow(message);
  await expect(observeRecording(join(folder, "nowhere.har"))).rejects.toThrow(
    "there is no such recording; check the path",
  );
});
