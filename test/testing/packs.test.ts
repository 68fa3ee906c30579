import { createHash } from "node:crypto";
import { cp } from "node:fs/promises";
import { resolve } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { FAULTS } from "../../banks/fault-bank/faults/index.mjs";
import { runFaults, runRightServers } from "../../banks/fault-bank/run.mjs";
import { nodeHandler, startServer } from "../../src/adapters/node.js";
import { type MountConfig, memorySource, openSite, type Site, type SiteConfig } from "../../src/index.js";
import { compareSites, differs } from "../../src/testing/compare/compare.js";
import { compareFields } from "../../src/testing/compare/fields.js";
import { makeQuestions, withoutRepeats } from "../../src/testing/compare/questions.js";
import { takeSample } from "../../src/testing/discover/sample.js";
import { observeSite } from "../../src/testing/draft/from-site.js";
import { writeDraft } from "../../src/testing/draft/write.js";
import {
  askServer,
  askSite,
  expandCases,
  loadExpectations,
  makeTemporaryTree,
  PACK_NAMES,
  type PackName,
  runCases,
  runPacks,
} from "../../src/testing/index.js";
import { type Meddling, startStandInProxy } from "../fixtures/stand-in-proxy.js";
import { failures, makeHosts } from "./stand-in-host.js";

const DEMO = resolve("demo/site");

const openDemo = (
  rules: Partial<MountConfig> = {},
  folder = DEMO,
  site: Partial<SiteConfig> = {},
): Promise<Site> =>
  openSite({ mounts: [{ folder, errorPages: { 404: "/404.html" }, ...rules }], base: "/", ...site });
const openMoved = (moved: SiteConfig["moved"], gone: string[] = []): Promise<Site> =>
  openDemo({ protect: true, variants: { formats: ["avif", "webp"] } }, DEMO, { moved, gone });

const { host, stop } = makeHosts();
const running: (() => unknown)[] = [stop];
afterAll(async () => {
  for (const stop of running) await stop();
});

async function listen(site: Site): Promise<string> {
  const server = await startServer(site, { host: "127.0.0.1", port: 0 });
  running.push(() => server.close());
  return server.url;
}

async function proxy(target: string, meddling: Meddling): Promise<string> {
  const { url, close } = await startStandInProxy(target, meddling);
  running.push(close);
  return url;
}

describe("a site that is right passes every pack", () => {
  test("in process, and over the network by following its links", async () => {
    const site = await openMoved(
      {
        "/birds/": "/guide/",
        "/map.html": "/visit#map",
        "/shop/": "https://shop.larkholm.example/",
        "/now": { to: "/records/2026/season.json", temporary: true, query: "drop" },
      },
      ["/members/", "/webcam.html"],
    );
    const [inside, outside] = [
      await runPacks(site, PACK_NAMES),
      await runPacks(await listen(site), PACK_NAMES),
    ];
    expect([...failures(inside), ...failures(outside)]).toEqual([]);
    for (const results of [inside, outside]) {
      // Bytes are on a wire over the network only, and what moved is known of a configuration.
      const counts = PACK_NAMES.filter(
        (name) => (name !== "framing" || results === outside) && (name !== "moved" || results === inside),
      ).map(
        (name) =>
          results.filter(({ case: one, outcome }) => one.group === name && outcome === "passed").length,
      );
      expect(Math.min(...counts)).toBeGreaterThan(2);
    }
  });

  test("applications in areas of a mount are found by their configuration", async () => {
    await using tree = await makeTemporaryTree({
      "index.html": "<title>Guide</title>",
      "explorer/index.html": "<title>Explorer</title>",
      "explorer/inner/a.txt": "a",
    });
    const site = await openSite({
      base: tree.folder,
      mounts: [
        {
          at: "/birds",
          folder: ".",
          areas: { "/explorer": { appShell: "/explorer/index.html" }, "/explorer/inner": { listing: true } },
        },
      ],
    });
    expect(site.mounts).toMatchObject([{ at: "/birds", appShells: ["/birds/explorer/"] }]);
    const results = await runPacks(site, ["app-shell"]);
    expect(failures(results)).toEqual([]);
    expect(results.map(({ case: one }) => one.name)).toContain(
      "/birds/explorer/no-such-name-4f1d/42 is answered with the app shell",
    );
  });

  test("an application, a listing that is all there is, and a site with nothing in it", async () => {
    await using tree = await makeTemporaryTree({
      "app/index.html": "<title>App</title>",
      "app/assets/a-5f3a91bc.js": "run()",
      "app/assets/b-5f3a91bc.css": "a{}",
      "archive/a.txt": "a",
      "archive/dawn.wav": new Uint8Array(3 * 1024 * 1024),
    });
    const app = await openSite({
      base: tree.folder,
      mounts: [
        { at: "/", folder: "app", kind: "app" },
        { at: "/archive", folder: "archive", kind: "archive" },
      ],
    });
    const inside = await runPacks(app, PACK_NAMES);
    const outside = await runPacks(await listen(app), PACK_NAMES, {
      paths: ["/archive/", "/archive/dawn.wav"],
    });
    for (const results of [inside, outside]) {
      expect(failures(results)).toEqual([]);
      // Too large to be read whole: parts of it are looked at all the same.
      expect(
        results.filter(
          ({ case: one }) => one.group === "ranges" && one.name.startsWith("/archive/dawn.wav, "),
        ).length,
      ).toBe(3);
    }
    await tree.write({ "none/": "" });
    const results = await runPacks(
      await openSite({ base: tree.folder, mounts: [{ folder: "none" }] }),
      PACK_NAMES,
    );
    expect(failures(results)).toEqual([]);
    expect(results.filter(({ outcome }) => outcome === "skipped").map(({ case: one }) => one.group)).toEqual([
      "framing",
      "links",
      "moved",
      "conditional",
      "ranges",
      "codings",
      "variants",
      "app-shell",
      "content",
      "listings",
      "protected",
      "delivery",
    ]);
  });
});

describe("pages that are protected", () => {
  const PAGE = "<title>Larkholm</title><script>own()</script><p>Larkholm";
  const RIGHT = {
    "Content-Security-Policy":
      "default-src 'self'; script-src 'self' 'sha256-1yruO3ZUqBddjC8oRrsLLZ/oiHYCAveB39McCaLvqnk='; object-src 'none'; base-uri 'none'; frame-ancestors 'none'",
    "Referrer-Policy": "same-origin",
  };
  const CSP = RIGHT["Content-Security-Policy"];
  const serve = (fields: Record<string, string>): Promise<string> =>
    host(
      (request, response) =>
        void response
          .writeHead(request.url === "/" ? 200 : 404, {
            "Content-Type": "text/html; charset=utf-8",
            ...fields,
          })
          .end(PAGE),
    );

  test.each<[string, Record<string, string>, RegExp | undefined]>([
    ["nothing wrong", RIGHT, undefined],
    [
      "no policy",
      { ...RIGHT, "Content-Security-Policy": "", "X-Frame-Options": "DENY" },
      /Content-Security-Policy nothing/,
    ],
    [
      "one that only reports",
      {
        "Referrer-Policy": "same-origin",
        "Content-Security-Policy-Report-Only": CSP,
        "X-Frame-Options": "DENY",
      },
      /Content-Security-Policy one that only reports/,
    ],
    [
      "inline scripts of anybody",
      { ...RIGHT, "Content-Security-Policy": CSP.replace(/'sha256-[^']+'/, "'unsafe-inline'") },
      /script-src 'unsafe-inline'/,
    ],
    [
      "inline scripts of anybody, for old browsers alone",
      {
        ...RIGHT,
        "Content-Security-Policy": CSP.replace("script-src 'self'", "script-src 'self' 'unsafe-inline'"),
      },
      undefined,
    ],
    [
      "scripts of any host",
      { ...RIGHT, "Content-Security-Policy": CSP.replace("script-src 'self'", "script-src *") },
      /script-src \*/,
    ],
    [
      "any base",
      { ...RIGHT, "Content-Security-Policy": CSP.replace("base-uri 'none'; ", "") },
      /base-uri anything is allowed/,
    ],
    [
      "anybody's frame",
      { ...RIGHT, "Content-Security-Policy": CSP.replace("; frame-ancestors 'none'", "") },
      /framing any site may show it in a frame/,
    ],
    [
      "a page that its policy stops",
      { ...RIGHT, "Content-Security-Policy": CSP.replace(/ 'sha256-[^']+'/, "") },
      /the page under its policy script-src does not allow 'sha256-1yruO/,
    ],
    [
      "the last policy of several counts",
      { ...RIGHT, "Referrer-Policy": "unsafe-url, No-Referrer " },
      undefined,
    ],
    ["an address for all", { ...RIGHT, "Referrer-Policy": "unsafe-url" }, /Referrer-Policy unsafe-url/],
    [
      "transport security without transport",
      { ...RIGHT, "Strict-Transport-Security": "max-age=1" },
      /Strict-Transport-Security max-age=1, which RFC 6797/,
    ],
  ])("%s", async (_title, fields, expected) => {
    const found = failures(await runPacks(await serve(fields), ["protected"], { strict: true })).filter(
      (text) => text.startsWith("protected: / "),
    );
    if (expected === undefined) expect(found).toEqual([]);
    else expect(found).toEqual([expect.stringMatching(expected)]);
  });
});

const NEEDS = "the page under its policy";
test.each<[html: string, policy: string, told: string | undefined]>([
  ['<script src="https://cdn.invalid/a.js"></script>', "script-src https://cdn.invalid", undefined],
  ['<script src="https://cdn.invalid/a.js"></script>', "script-src cdn.invalid", undefined],
  ['<script src="https://cdn.invalid/a.js"></script>', "script-src *.invalid", undefined],
  [
    '<script src="https://cdn.invalid/a.js"></script>',
    "script-src *.cdn.invalid",
    "script-src does not allow https://cdn.invalid",
  ],
  [
    '<script src="https://cdn.invalid/a.js"></script>',
    "script-src other.invalid",
    "script-src does not allow https://cdn.invalid",
  ],
  ['<script src="https://cdn.invalid/a.js"></script>', "script-src https:", undefined],
  ['<script src="https://cdn.invalid/a.js"></script>', "script-src http:", undefined],
  ['<img src="http://cdn.invalid/a.png">', "img-src https:", "img-src does not allow http://cdn.invalid"],
  ['<img src="http://cdn.invalid/a.png">', "img-src http:", undefined],
  ['<img src="/a.png">', "img-src 'self'", undefined],
  ['<img src="/a.png">', "img-src *", undefined],
  ["<script>own()</script>", "script-src 'nonce-a'", undefined],
  ["<script>own()</script>", "script-src 'self'", "script-src does not allow 'sha256-"],
  ["<style>p{}</style>", "style-src 'UNSAFE-INLINE'", undefined],
  ["<style>p{}</style>", "style-src 'self'", "style-src does not allow 'sha256-"],
  ['<p style="color: red">', "style-src 'unsafe-inline'", undefined],
  ['<p style="color: red">', "style-src 'self'", "style-src does not allow "],
])("a page with %s, under %s: %s", async (html, policy, told) => {
  const fields = {
    "Content-Type": "text/html; charset=utf-8",
    "Content-Security-Policy": `default-src 'none'; ${policy}`,
  };
  const url = await host(
    (request, response) =>
      void response
        .writeHead(request.url === "/" ? 200 : 404, fields)
        .end(`<!doctype html><title>Larkholm</title>${html}`),
  );
  const found = failures(await runPacks(url, ["protected"])).filter(
    (line) => line.startsWith("protected: / ") && line.includes(NEEDS),
  );
  expect(found).toEqual(told === undefined ? [] : [expect.stringContaining(`${NEEDS} ${told}`)]);
});

describe("digests", () => {
  test("what is not what its digest tells of is found out: in a field, and in a list", async () => {
    const right = `sha-256=:${createHash("sha256").update("right").digest("base64")}:`;
    const files = (digest: string): Promise<string> =>
      host((request, response) => {
        const path = request.url!;
        if (path === "/")
          return void response
            .setHeader("Content-Type", "text/html")
            .end('<title>Larkholm</title><a href="/downloads/a.zip">a</a>');
        if (path.startsWith("/downloads/?digests"))
          return void response
            .setHeader("Content-Type", "application/json")
            .end(JSON.stringify({ entries: [{ href: "./a.zip", digest }] }));
        if (path !== "/downloads/a.zip") return void response.writeHead(404).end();
        response
          .writeHead(200, {
            "Content-Type": "application/zip",
            ...(request.headers["want-repr-digest"] && { "Repr-Digest": digest }),
          })
          .end("right");
      });
    expect(
      failures(await runPacks(await files(right), ["content"])).filter((text) => /digest/.test(text)),
    ).toEqual([]);
    const wrong = right.replace(/:./, ":A");
    const found = failures(await runPacks(await files(wrong), ["content"])).filter((text) =>
      /digest/.test(text),
    );
    expect(found).toEqual([
      expect.stringContaining("other bytes than those of repr-digest"),
      expect.stringContaining("/downloads/?digests lists the digests"),
    ]);
  });
});

describe("what a file holds", () => {
  test.each<[string, string, string, string | Uint8Array, RegExp | undefined]>([
    [
      "a charset that nobody knows",
      "a.txt",
      "text/plain; charset=feathers",
      "abc",
      /the charset feathers, which no browser knows/,
    ],
    [
      "a charset that is nearly one",
      "a.txt",
      "text/plain; charset=utf-88",
      "abc",
      /the charset utf-88, which no browser knows/,
    ],
    [
      "a long text before the page",
      "a.html",
      "text/html; charset=utf-8",
      `${"warn ".repeat(20)}<!doctype html><title>a</title></html>`,
      /text before the page begins: "(?:warn ){11}warn…"/,
    ],
    [
      "bytes that are no UTF-8",
      "a.txt",
      "text/plain; charset=utf-8",
      new Uint8Array([0x61, 0xe9]),
      /bytes that are not UTF-8, although it names that charset/,
    ],
    [
      "the same, where no charset is named",
      "a.txt",
      "text/plain",
      new Uint8Array([0x61, 0xe9]),
      /bytes that are not UTF-8, and no charset is named/,
    ],
    [
      "UTF-8 under the name of another charset",
      "a.txt",
      "text/plain; charset=iso-8859-1",
      "grüße",
      /a text in UTF-8, although the charset iso-8859-1 is named/,
    ],
    ["letters that are the same in both", "a.txt", "text/plain; charset=iso-8859-1", "gruesse", undefined],
    ["another charset", "a.txt", "text/plain; charset=iso-8859-1", new Uint8Array([0x61, 0xe9]), undefined],
    ["a mark before JSON", "a.json", "application/json", "\ufeff{}", /a byte order mark before the JSON/],
    [
      "a page in the place of a script",
      "a.js",
      "text/javascript",
      "\n<!DOCTYPE html><title>a</title>",
      /a page of HTML instead of a script/,
    ],
    [
      "a page in the place of data",
      "a.json",
      "application/json",
      "<html><title>a</title>",
      /a page of HTML instead of a data file/,
    ],
    [
      "a script that writes a page",
      "a.js",
      "text/javascript",
      "document.body.innerHTML = '<html>'",
      undefined,
    ],
    [
      "a text before the page",
      "a.html",
      "text/html; charset=utf-8",
      "warning <!doctype html><title>a</title></html>",
      /text before the page begins: "warning"/,
    ],
    [
      "XML with a declaration of its own",
      "a.svg",
      "image/svg+xml",
      '<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "<b>">]><svg xmlns="http://www.w3.org/2000/svg"></svg>',
      undefined,
    ],
  ])("%s", async (_title, name, type, body, expected) => {
    const url = await host((request, response) => {
      if (request.url === "/")
        return void response
          .setHeader("Content-Type", "text/html; charset=utf-8")
          .end(`<!doctype html><title>Larkholm</title><a href="/${name}">it</a></html>`);
      if (request.url !== `/${name}`) return void response.writeHead(404).end();
      response.writeHead(200, { "Content-Type": type }).end(body);
    });
    const found = failures(await runPacks(url, ["content"])).filter((line) =>
      line.startsWith(`content: /${name}`),
    );
    if (expected === undefined) expect(found).toEqual([]);
    else expect(found.join("\n")).toMatch(expected);
  });
});

test("a server that does not know an address's form says so with 501: no failure", async () => {
  const url = await host(
    (request, response) =>
      void response
        .writeHead(request.url === "/" ? 200 : /%|\\|\.\./.test(request.url!) ? 501 : 404)
        .end("x"),
  );
  expect(failures(await runPacks(url, ["path-safety"])).filter((line) => /501|failure/.test(line))).toEqual(
    [],
  );
});

describe("pictures in several formats", () => {
  type Faults = { refuses?: true; sameTag?: true; toOld?: true; mute?: true; elsewhere?: true };
  const serve = ({ refuses, sameTag, toOld, mute, elsewhere }: Faults): Promise<string> =>
    host((request, response) => {
      const accept = request.headers.accept ?? "*/*";
      const path = request.url!.replace(/\?.*/, "");
      if (path === "/")
        return void response
          .setHeader("Content-Type", "text/html")
          .end('<title>Larkholm</title><img src="/view.png">');
      if (!/^\/view\.(?:png|webp)$/.test(path)) return void response.writeHead(404).end();
      const isNew =
        path.endsWith("webp") ||
        accept.includes("image/webp") ||
        (toOld === true && accept.includes("image/*"));
      if (refuses && accept === "image/x-none") return void response.writeHead(406, { Vary: "Accept" }).end();
      response.writeHead(200, {
        "Content-Type": isNew ? "image/webp" : "image/png",
        ETag: sameTag ? '"1"' : `"${isNew}"`,
        ...(path.endsWith("png") && !(mute && isNew) && { Vary: "Accept" }),
        ...(isNew && { "Content-Location": elsewhere ? "/view.png" : "/view.webp" }),
      });
      response.end(isNew ? "webp" : "png");
    });

  test.each<[string, Faults, RegExp[]]>([
    ["nothing wrong", {}, []],
    ["a refusal", { refuses: true }, [/a missing format: status 406/]],
    ["one tag for both", { sameTag: true }, [/names new formats: ETag "1", for other bytes/]],
    ["a new format for an old browser", { toOld: true }, [/names none of them: media type image\/webp/]],
    ["no Vary", { mute: true }, [/names new formats: Vary nothing/]],
    [
      "a Content-Location of something else",
      { elsewhere: true },
      [/names new formats: .*content 200, with other bytes/],
    ],
  ])("%s", async (_title, faults, expected) => {
    const found = failures(await runPacks(await serve(faults), ["variants"]));
    expect(found).toHaveLength(expected.length);
    for (const [index, pattern] of expected.entries()) expect(found[index]).toMatch(pattern);
  });
});

describe("pages in several languages", () => {
  type Faults = {
    refuses?: true;
    sameTag?: true;
    mute?: true;
    unnamed?: true;
    unreadable?: true;
    elsewhere?: true;
    wrong?: true;
  };
  const serve = ({
    refuses,
    sameTag,
    mute,
    unnamed,
    unreadable,
    elsewhere,
    wrong,
  }: Faults): Promise<string> =>
    host(({ headers, url = "/" }, response) => {
      if (!/^\/(?:|[a-z]{2})$/.test(url)) return void response.writeHead(404).end();
      const language =
        url === "/" ? (/^nb/.test(headers["accept-language"] ?? "") ? "nb" : "en") : url.slice(1);
      if (refuses && /^x-none/.test(headers["accept-language"] ?? ""))
        return void response.writeHead(406).end();
      const named =
        unnamed && /^x-none/.test(headers["accept-language"] ?? "") ? {} : { "Content-Language": language };
      const location = unreadable
        ? "http://["
        : elsewhere
          ? "https://other.invalid/nb"
          : `/${language === "nb" && wrong ? "en" : language}`;
      response.writeHead(200, {
        "Content-Type": "text/html; charset=utf-8",
        ETag: sameTag ? '"1"' : `"${language}"`,
        ...(mute && language === "nb" ? {} : { Vary: "Accept-Language" }),
        ...named,
        "Content-Location": location,
      });
      response.end(`<!doctype html><title>Larkholm, ${language}</title>`);
    });

  test.each<[string, Faults, RegExp[]]>([
    ["nothing wrong", {}, []],
    ["a refusal", { refuses: true }, [/for a reader of other languages: status 406/]],
    ["one tag for both", { sameTag: true }, [/for a reader of nb: ETag "1", for other bytes$/]],
    ["the other page's address", { wrong: true }, [/for a reader of nb: content 200, with other bytes$/]],
    ["no Vary", { mute: true }, [/for a reader of nb: Vary nothing/]],
    ["no language named", { unnamed: true }, [/for a reader of other languages: Content-Language nothing/]],
    [
      "an invalid address",
      { unreadable: true },
      Array(6).fill(/Content-Location cannot be read: http:\/\/\[/),
    ],
    ["an address elsewhere", { elsewhere: true }, []],
  ])("%s", async (_title, faults, expected) => {
    const found = failures(await runPacks(await serve(faults), ["variants"]));
    expect(found).toEqual(expected.map((pattern) => expect.stringMatching(pattern)));
  });
});

describe("a demo that was broken is found out", () => {
  let copy: Awaited<ReturnType<typeof makeTemporaryTree>>;
  beforeAll(async () => {
    copy = await makeTemporaryTree({});
    await cp(DEMO, copy.folder, { recursive: true });
    await copy.write({
      "server.key": "-----BEGIN KEY-----",
      "records/old/dump.sql": "INSERT",
      "images/plate.png": "GIF89a, under another name",
    });
  });
  afterAll(() => copy.close());

  test.each<[string, () => Promise<Site | string>, PackName, RegExp[]]>([
    [
      "an old address where a page still is",
      () => openMoved({ "/visit.html": "/guide/" }),
      "moved",
      [/^moved: \/visit\.html leads to \/guide\/: redirect 200$/],
    ],
    [
      "a new address where nothing is",
      () => openMoved({ "/old": "/new" }),
      "moved",
      [/^moved: \/old leads to \/new: .*answer 404$/],
    ],
    [
      "a new address that leads on",
      () => openMoved({ "/old": "/guide" }),
      "moved",
      [/^moved: \/old leads to \/guide: .*answer 301$/],
    ],
    [
      "what is gone and still there",
      () => openMoved({}, ["/visit.html"]),
      "moved",
      [/^moved: \/visit\.html is gone: status 200$/],
    ],
    [
      "a style sheet of the wrong type",
      () => openDemo({ mediaTypes: { ".css": "text/plain" } }),
      "types",
      [/^types: \/styles\/larkholm\.css has the type of its name: media type text\/plain$/],
    ],
    [
      "the same, over the network",
      async () => listen(await openDemo({ mediaTypes: { ".css": "text/plain" } })),
      "types",
      [/^types: \/styles\/larkholm\.css has the type of its name: media type text\/plain$/],
    ],
    [
      "a picture with another picture's extension",
      () => openDemo({}, copy.folder),
      "types",
      [/^types: \/images\/plate\.png has the type of its content: media type image\/png$/],
    ],
    [
      "documents that are kept for a year",
      () => openDemo({ caching: [{ files: "**/*.html", policy: { maxAge: "1y" } }] }),
      "caching",
      [
        /^caching: \/ is a document: it has no long lifetime: caching fresh for 1 year \(Cache-Control: max-age=31536000\)$/,
        /^caching: \/visit\.html is a document/,
      ],
    ],
    [
      "a page at deep links that a network keeps for a year",
      async () =>
        proxy(await listen(await openDemo({ appShell: "/index.html" })), {
          sets: { "CDN-Cache-Control": "max-age=31536000" },
        }),
      "caching",
      [/has no long lifetime in a content delivery network: caching cdn-cache-control: max-age=31536000$/],
    ],
    [
      "a page at deep links that names nothing it was chosen by",
      async () => proxy(await listen(await openDemo({ appShell: "/index.html" })), { strips: ["Vary"] }),
      "app-shell",
      [/names in Vary what its answer depends on: Vary nothing, on the page$/],
    ],
    [
      "an application that loads its scripts relative to each deep link",
      () =>
        openSite({
          mounts: [
            { source: memorySource({ "index.html": "<script src=./assets/a.js></script>" }), kind: "app" },
          ],
        }),
      "app-shell",
      [/can load the application's files: body "\.\/assets\/a\.js", relative to each deep link$/],
    ],
    [
      "a key in the folder, found by its name",
      () => openDemo({}, copy.folder),
      "exposure",
      [
        /^exposure: \/server\.key \(private keys\): answer 200 with 19 bytes of /,
        /^exposure: \/records\/old\/dump\.sql \(database dumps\): answer 200/,
      ],
    ],
    [
      "a key at the top, over the network",
      async () => listen(await openDemo({}, copy.folder)),
      "exposure",
      [/^exposure: \/server\.key \(private keys\): answer 200/],
    ],
    [
      "the application's page for a missing script",
      async () => {
        const files = nodeHandler(await openDemo({ whenMissing: "pass" }));
        const shell = nodeHandler(await openDemo());
        return host((request, response) =>
          files(request, response, () => shell(Object.assign(request, { url: "/index.html" }), response)),
        );
      },
      "app-shell",
      [
        /^app-shell: \/ has no page for a missing script: answer 200 with text\/html$/,
        /missing style sheet/,
        /missing picture/,
        /missing JSON file/,
      ],
    ],
    [
      "one page for everything, without a type",
      async () => host((_, response) => void response.end("<title>App</title>")),
      "app-shell",
      [/^app-shell: \/ has no page for a missing script: answer 200 with HTML that names no type$/],
    ],
    [
      "validators that a proxy takes away",
      async () => proxy(await listen(await openDemo()), { strips: ["ETag", "Last-Modified"] }),
      "conditional",
      [/^conditional: \/ can be revalidated: validators neither$/],
    ],
    [
      "a server that names no types, whose links are followed all the same",
      async () => proxy(await listen(await openDemo()), { strips: ["Content-Type"] }),
      "types",
      [/^types: \/styles\/larkholm\.css has the type of its name: media type nothing$/],
    ],
    [
      "a coding that a proxy adds without saying what it varies by",
      async () =>
        proxy(await listen(await openDemo({ codings: { compress: false } })), {
          compresses: true,
          strips: ["Vary"],
        }),
      "codings",
      [/for a browser, names in Vary what it depends on: Vary nothing$/],
    ],
    [
      "parts that a proxy forgets",
      async () => proxy(await listen(await openDemo()), { strips: ["Accept-Ranges", "Content-Range"] }),
      "ranges",
      [/a range although none are offered: answer 206 with 100 bytes$/],
    ],
    [
      "a directive that is there twice",
      async () =>
        proxy(await listen(await openDemo()), {
          answers: (path) => (path === "/visit" ? 500 : undefined),
          sets: { "Cache-Control": "max-age=1, max-age=2" },
        }),
      "caching",
      [/Cache-Control max-age=1, max-age=2 \(max-age is there twice\)$/],
    ],
    [
      "a server that leaves its folder, and the site",
      async () =>
        host((request, response) => {
          if (/etc|passwd/.test(request.url!)) response.end("root:x:0:0:root:/root:/bin/sh");
          else if (request.url!.startsWith("//"))
            response.writeHead(301, { Location: `${request.url!}/` }).end();
          else if (/%0d%0a/i.test(request.url!))
            response.writeHead(200, { "X-Written-By-Address": "yes" }).end();
          else if (/%zz/.test(request.url!)) response.writeHead(500).end();
          else response.writeHead(404).end("none");
        }),
      "path-safety",
      [
        /^path-safety: many steps up: answer 200 with what looks like a file from outside the folder: "root:x:0:0/,
        /^path-safety: two slashes and a host, bare: redirect \/\/other-site\.invalid\/$/,
        /^path-safety: line breaks, escaped: X-Written-By-Address yes$/,
        /^path-safety: an invalid escape: answer 500: a failure of the server$/,
      ],
    ],
    [
      "a server that forgets fields with HEAD",
      async () => {
        const files = nodeHandler(await openDemo());
        return host((request, response) =>
          request.method === "HEAD"
            ? void response.writeHead(200, { "Content-Type": "text/html" }).end()
            : files(request, response),
        );
      },
      "head",
      [/ with HEAD: .*ETag nothing/, /a missing address, with HEAD: status 200$/],
    ],
  ])("%s", async (_sentence, open, pack, found) => {
    const place = await open();
    const results = failures(await runPacks(place, [pack]));
    for (const pattern of found)
      expect(
        results.some((line) => pattern.test(line)),
        `${pattern} in\n${results.join("\n")}`,
      ).toBe(true);
  });
});

describe("two sites, compared", () => {
  const compare = async (here: Site, there: string, paths: string[] = []): Promise<string[]> => {
    const [a, b] = [askSite(here), askServer(there)];
    const questions = withoutRepeats(makeQuestions(await takeSample(a, { site: here, paths })));
    const comparisons = await compareSites(questions, a, b);
    await b.close();
    return comparisons.filter(differs).map(({ question, status, fields, body, reasons }) => {
      const what = [
        status && `${status.here}/${status.there}`,
        ...fields.filter(({ noise }) => !noise).map(({ name }) => name),
        body && "body",
      ].filter(Boolean);
      return `${question.path}: ${what.join(" ")}: ${reasons.join(" | ")}`;
    });
  };
  const withApp = async (): Promise<Site> => {
    const tree = await makeTemporaryTree({
      "index.html": '<title>App</title><script src="/explorer/assets/a-5f3a91bc.js"></script>',
      "assets/a-5f3a91bc.js": "run()",
    });
    running.push(() => tree.close());
    return openSite({
      base: "/",
      mounts: [
        { folder: DEMO, errorPages: { 404: "/404.html" } },
        { at: "/explorer", folder: tree.folder, kind: "app" },
      ],
    });
  };

  test.each<[string, string, string, string, string[]]>([
    [
      "members in another order, with other blanks and case",
      "cache-control",
      "public, max-age=60",
      "Max-Age=60 ,public",
      [],
    ],
    ["another lifetime", "cache-control", "max-age=31536000, immutable", "no-cache", ["cache-control"]],
    ["another lifetime for networks", "cdn-cache-control", "max-age=60", "max-age=61", ["cdn-cache-control"]],
    ["a quoted comma parts nothing", "vary", '"a, b", c', 'c, "a, b"', []],
    [
      "a whole address on each side",
      "location",
      "http://here.invalid/guide/",
      "https://there.invalid/guide/",
      [],
    ],
    ["another place", "location", "/guide/", "/guide", ["location"]],
    [
      "the same cookies, with other values, in another order",
      "set-cookie",
      "a=1; Path=/, b=2",
      "b=3, a=4; Path=/",
      [],
    ],
    ["other cookies", "set-cookie", "a=1", "c=1", ["set-cookie"]],
    ["a cookie with another value", "set-cookie", "a=1", "a=2", []],
    ["validators of another machine", "etag", '"a"', '"b"', []],
    [
      "another date to expire",
      "expires",
      "Thu, 01 Jan 2099 00:00:00 GMT",
      "Sat, 01 Jan 2000 00:00:00 GMT",
      ["expires"],
    ],
    ["a cache's own word on this request", "x-cache", "HIT", "MISS", []],
  ])("fields: %s", (_sentence, name, here, there, expected) => {
    const differing = compareFields({ [name]: here }, { [name]: there }, [
      "http://here.invalid",
      "https://there.invalid",
    ]).filter(({ noise }) => !noise);
    expect(differing.map((one) => one.name)).toEqual(expected);
  });

  test("the same site, served elsewhere: nothing differs", async () => {
    const site = await withApp();
    expect(await compare(site, await listen(site))).toEqual([]);
  });

  test.each<[string, Meddling, (results: string[]) => void]>([
    [
      "validators lost",
      { strips: ["ETag", "Last-Modified"] },
      (results) =>
        expect(results).toContain(
          "/visit.html: etag last-modified: there, something in between (Via: 1.1 stand-in) removes ETag and Last-Modified: every visit fetches the whole file again",
        ),
    ],
    [
      "a fallback that is missing under its prefix",
      {
        answers: (path) => (path.startsWith("/explorer/no-such") && !path.endsWith(".js") ? 404 : undefined),
      },
      (results) =>
        expect(results).toEqual([
          "/explorer/no-such-name-4f1d/42: 200/404: the app shell seems to be missing there under /explorer/: a deep link works only here",
        ]),
    ],
    [
      "an application that is not there at all",
      { answers: (path) => (path.startsWith("/explorer/") ? 404 : undefined) },
      (results) =>
        expect(results).toContain(
          "/explorer/assets/a-5f3a91bc.js: 200/404: nothing under /explorer/ is deployed there, or it has another prefix",
        ),
    ],
    [
      "an old copy from a cache",
      {
        sets: { Age: "7200" },
        rewrites: (text) => text.replace("Larkholm", "Larkhill"),
        strips: ["Content-Encoding"],
      },
      (results) =>
        expect(results.join("\n")).toMatch(
          /body: .*there, a cache in between sent a copy that is 2 hours old \(Age: 7200, Via: 1\.1 stand-in\)/,
        ),
    ],
    [
      "a type that the server does not know",
      { sets: { "Content-Type": "application/octet-stream" } },
      (results) =>
        expect(results.join("\n")).toMatch(
          /\/fonts\/young-serif\.woff2: content-type: there, the server does not know the extension \.woff2 \(application\/octet-stream\)/,
        ),
    ],
    [
      "a charset that is lost is no type that is not known",
      { sets: { "Content-Type": "text/plain" } },
      (results) => {
        expect(results).toContain(
          "/fonts/young-serif-licence.txt: content-type: there, no charset is named, so browsers guess one",
        );
        expect(results.join("\n")).toContain(
          "there, the server does not know the extension .woff2 (text/plain)",
        );
      },
    ],
    [
      "security fields, taken away",
      { strips: ["X-Content-Type-Options"] },
      (results) =>
        expect(results.join("\n")).toMatch(
          /there, a security field of the page is not set, or is removed in between/,
        ),
    ],
    [
      "dates, connection and names of proxies are noise",
      {
        sets: {
          Date: "Thu, 01 Jan 1970 00:00:00 GMT",
          "X-Request-Id": "17",
          "X-Cache-Status": "hit",
          Server: "stand-in",
          "Keep-Alive": "timeout=9",
        },
      },
      (results) => expect(results).toEqual([]),
    ],
    [
      "who asks for credentials",
      { answers: () => 401 },
      (results) =>
        expect(results[0]).toMatch(
          /200\/401: there, the server asks for credentials \(401\); give --header 'Authorization: …'/,
        ),
    ],
  ])("%s", async (_sentence, meddling, look) => {
    const site = await withApp();
    look(await compare(site, await proxy(await listen(site), meddling)));
  });

  test("compressed in between; another build; HTTPS", async () => {
    const plain = await openDemo({ codings: { compress: false } });
    const between = await compare(plain, await proxy(await listen(plain), { compresses: true }));
    expect(between.join("\n")).toMatch(
      /\/visit\.html: content-encoding etag: there, something in between compresses \(gzip, Via: 1\.1 stand-in\), and removes the entity tag/,
    );
    const site = await withApp();
    const build = await compare(
      site,
      await proxy(await listen(site), { rewrites: (text) => text.replaceAll("a-5f3a91bc", "a-77aa91bd") }),
    );
    expect(build.join("\n")).toMatch(
      /\/explorer\/: body: the two documents name different bundles: another build is deployed/,
    );
    const away = await host(
      (request, response) =>
        void response.writeHead(301, { Location: `https://larkholm.invalid${request.url}` }).end(),
    );
    expect((await compare(plain, away))[0]).toMatch(
      /200\/301 location: there, the server redirects to HTTPS; compare with an address that begins with https:/,
    );
  });
});

// A part of the bank; npm run fault-bank asks it all.
test("single faults are found, and named", async () => {
  const product = {
    runPacks,
    PACK_NAMES,
    askServer,
    observeSite,
    writeDraft,
    takeSample,
    makeQuestions,
    compareSites,
    differs,
    loadExpectations,
    expandCases,
    runCases,
  };
  const rows = await runFaults(
    product,
    FAULTS.filter((_, index) => index % 32 === 4),
  );
  expect(FAULTS.length).toBeGreaterThanOrEqual(150);
  expect(rows.length).toBeGreaterThan(7);
  expect(
    rows
      .filter(({ packs, draft, compare }) => packs.length + draft.length + compare.length === 0)
      .map(({ what }) => what),
  ).toEqual([]);
  expect(
    rows
      .filter(({ speaks, packs }) => !speaks && packs.length > 0)
      .map(({ what, packs: [first] }) => [what, first]),
  ).toEqual([]);
});

test("right servers of other styles raise no alarm; what they may do without is advice, and fails where that is asked for", async () => {
  const alarms = await runRightServers({ runPacks, PACK_NAMES });
  expect(alarms.filter(({ lines }) => lines.length > 0)).toEqual([]);
  expect(alarms.length).toBeGreaterThanOrEqual(10);
  const strict = (place: Site | string, names: readonly PackName[], options = {}) =>
    runPacks(place, names, { ...options, strict: true });
  const [plain] = await runRightServers(
    { runPacks: strict, PACK_NAMES },
    ({ what }) => what === "no compression",
  );
  expect(plain!.lines.length).toBeGreaterThan(0);
});
