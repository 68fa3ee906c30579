import { createHash } from "node:crypto";
import { gzipSync } from "node:zlib";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { nodeHandler } from "../src/adapters/node.js";
import { webHandler } from "../src/adapters/web.js";
import { type MountConfig, memorySource, type Site } from "../src/index.js";
import { findContents, findNeeds } from "../src/reading/pages/needs.js";
import { readPage } from "../src/reading/pages/page.js";
import { inSlices } from "../src/reading/slices.js";
import { surveySite } from "../src/survey/index.js";
import { openSite } from "./counting-source.js";

// The protective fields of documents: a policy that is made of each page, and what goes with it.
const readPageNeeds = async (text: string, isXml: boolean) =>
  findNeeds(findContents(await inSlices(readPage(text, isXml))));
const digest = (text: string): string => `'sha256-${createHash("sha256").update(text).digest("base64")}'`;
const FILES = {
  "index.html":
    '<!doctype html><script>go("é")</script><script type="application/json">{}</script><style>p{}</style><script src="/own.js"></script><img src="/a.png">',
  "plain.html": "<!doctype html><p>Larkholm",
  "404.html": "<script>lost()</script>",
  "picture.svg": '<svg xmlns="http://www.w3.org/2000/svg"><style>path{}</style></svg>',
  "packed.svgz": gzipSync('<svg xmlns="http://www.w3.org/2000/svg"><style>path{}</style></svg>'),
  "cut.svgz": gzipSync('<svg xmlns="http://www.w3.org/2000/svg"/>').subarray(0, 20),
  "bomb.svgz": gzipSync(Buffer.alloc(8_000_000, "<g>")),
  "data.json": "{}",
  "note.txt": "hello",
  "bad.html": '<a href="javascript:go()">go</a>',
  "latin.html": Buffer.from('<meta charset="iso-8859-1"><script>go("é")</script>', "latin1"),
  "unknown.html": '<meta charset="x-bird"><script>go("é")</script>',
  "wide.html": Buffer.from("\ufeff<script>go('é')</script>", "utf16le"),
  "wider.html": Buffer.from("\ufeff<script>go('é')</script>", "utf16le").swap16(),
  "dos.html": "<script>\r\na()\r\n</script>",
};
const open = (protect: MountConfig["protect"] = true, more: MountConfig = {}): Promise<Site> =>
  openSite({ mounts: [{ source: memorySource(FILES), errorPages: { 404: "/404.html" }, protect, ...more }] });

async function fieldsOf(site: Site, target: string, more: object = {}): Promise<Record<string, string>> {
  const answer = await site.respond({ method: "GET", target, headers: {}, ...more });
  if (answer.kind === "pass") throw new Error("passed");
  if (answer.body.kind === "file") answer.body.file.close();
  return Object.fromEntries([...answer.fields].map(({ name, value }) => [name, value]));
}
const policyOf = async (site: Site, target: string): Promise<string | undefined> =>
  (await fieldsOf(site, target))["Content-Security-Policy"];

const COMMON =
  "img-src 'self' data:; font-src 'self' data:; object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'self'";

test("a document gets a policy of its own, made of what stands in it, and the fields that go with it", async () => {
  const site = await open();
  expect(await fieldsOf(site, "/")).toMatchObject({
    "Content-Security-Policy": `default-src 'self'; script-src 'self' ${digest('go("é")')}; style-src 'self' ${digest("p{}")}; ${COMMON}`,
    "Referrer-Policy": "strict-origin-when-cross-origin",
    "Permissions-Policy": "camera=(), display-capture=(), geolocation=(), microphone=(), payment=(), usb=()",
    "Cross-Origin-Opener-Policy": "same-origin-allow-popups",
    "X-Content-Type-Options": "nosniff",
  });
  expect(await policyOf(site, "/plain.html")).toBe(`default-src 'self'; ${COMMON}`);
  expect(await policyOf(site, "/none")).toContain(digest("lost()"));
  for (const path of ["/picture.svg", "/packed.svgz"])
    expect(await policyOf(site, path)).toContain(`style-src 'self' ${digest("path{}")}`);
  for (const path of ["/cut.svgz", "/bomb.svgz"])
    expect(await policyOf(site, path)).toBe(
      `default-src 'self'; style-src 'self' 'unsafe-inline'; ${COMMON}`,
    );
  // As browsers read them: in the page's own charset, and with line ends of one kind.
  expect(await policyOf(site, "/latin.html")).toContain(digest('go("é")'));
  expect(await policyOf(site, "/unknown.html")).toContain(digest('go("é")'));
  for (const path of ["/wide.html", "/wider.html"])
    expect(await policyOf(site, path)).toContain(digest("go('é')"));
  expect(await policyOf(site, "/dos.html")).toContain(digest("\na()\n"));
  for (const path of ["/data.json", "/note.txt"])
    expect(Object.keys(await fieldsOf(site, path))).not.toContain("Content-Security-Policy");
  expect(await policyOf(await open(false), "/")).toBeUndefined();
});

describe("what a page needs", () => {
  const needs = async (html: string, isXml = false): Promise<Record<string, readonly string[]>> =>
    Object.fromEntries((await readPageNeeds(html, isXml)).sources);

  test.each<[string, string, Record<string, string[]>]>([
    [
      "scripts of other hosts by their whole address",
      '<script src="https://cdn.larkholm.example/a.js?v=1"></script>',
      { "script-src": ["https://cdn.larkholm.example/a.js"] },
    ],
    [
      "without a scheme",
      '<script src="//cdn.larkholm.example/a;b.js"></script>',
      { "script-src": ["cdn.larkholm.example/a%3Bb.js"] },
    ],
    [
      "pictures, films and frames by their hosts",
      '<img src="https://a.example/x.png" srcset="https://b.example/y.png 2x, /z.png"><video src="http://c.example/v" poster="https://d.example/p"></video><iframe src="https://e.example/f"></iframe>',
      {
        "img-src": ["https://a.example", "https://b.example", "https://d.example"],
        "media-src": ["http://c.example"],
        "frame-src": ["https://e.example"],
      },
    ],
    [
      "what links load",
      '<link rel="stylesheet" href="https://a.example/s.css"><link rel=preload as=font href="https://b.example/f"><link rel="modulepreload" href="https://c.example/m.js"><link rel=canonical href="https://d.example/">',
      {
        "style-src": ["https://a.example/s.css"],
        "font-src": ["https://b.example"],
        "script-src": ["https://c.example/m.js"],
      },
    ],
    [
      "forms and a base",
      '<base href="https://base.example/x/"><form action="https://forms.example/"></form><script src="a.js"></script>',
      {
        "base-uri": ["https://base.example"],
        "form-action": ["https://forms.example"],
        "script-src": ["https://base.example/x/a.js"],
      },
    ],
    [
      "the first base counts, and no other element's address is one",
      '<a href="https://a.example/"></a><base href="https://b.example/"><base href="https://c.example/"><script src="m.js"></script>',
      { "base-uri": ["https://b.example", "https://c.example"], "script-src": ["https://b.example/m.js"] },
    ],
    [
      "words with any blanks between them",
      "<link rel='x \n  stylesheet' href=https://a.example/s.css>",
      { "style-src": ["https://a.example/s.css"] },
    ],
    [
      "blanks too, which are held against the policy",
      "<script>\n </script><style> </style><script></script>",
      { "script-src": [digest("\n ")], "style-src": [digest(" ")] },
    ],
    [
      "handlers and style attributes",
      '<p style="color:red" onclick="go()">',
      {
        "script-src": [digest("go()"), "'unsafe-hashes'"],
        "style-src": [digest("color:red"), "'unsafe-hashes'"],
      },
    ],
    [
      "an import map and a module, and no template",
      '<script type="importmap">{}</script><script type=module>m()</script><script type="text/x-template">t</script>',
      { "script-src": [digest("{}"), digest("m()")] },
    ],
    [
      "a type that only begins like a script's",
      '<script type="module/x">t</script><script type="text/javascript1.9">u</script><script type=" Text/JavaScript ">v()</script>',
      { "script-src": [digest("v()")] },
    ],
    [
      "a list of pictures is none for another attribute",
      '<img src="https://a.example/x,  y.png 2x">',
      { "img-src": ["https://a.example"] },
    ],
    [
      "a page inside the page",
      '<iframe srcdoc="&lt;script&gt;inner()&lt;/script&gt;"></iframe>',
      { "script-src": [digest("inner()")] },
    ],
    [
      "a comment and a text are no elements",
      "<!-- <script>no()</script> --><textarea><script>no()</script></textarea>",
      {},
    ],
    ["an object of its own", '<object data="/a.svg"></object>', { "object-src": ["'self'"] }],
    [
      "a script is no markup",
      "<script>a && b &amp; '<style>'</script>",
      { "script-src": [digest("a && b &amp; '<style>'")] },
    ],
    [
      "what is embedded, and hosts with digits and ports",
      '<embed src="https://a.b2.example:8080/x"><embed src="/own">',
      { "object-src": ["https://a.b2.example:8080", "'self'"] },
    ],
    [
      "sound in the address, which runs nothing",
      '<audio src="data:audio/wav,x"></audio><link rel=preload as=font href="data:font/woff2,x"><svg><use href="data:image/svg+xml,x"/></svg>',
      { "media-src": ["data:"] },
    ],
    [
      "scripts of SVG, and none by a language that HTML alone has",
      '<svg><script language=vb>a()</script><script href="https://a.example/b.js">no</script></svg><script language=vb>no</script>',
      { "script-src": ["https://a.example/b.js", digest("a()")] },
    ],
    [
      "nothing of what is empty",
      '<p onclick=""></p><script src=" "></script><img src="" srcset=" "><object data=""></object>',
      {},
    ],
    [
      "nothing of what is its own",
      '<script src="/a.js"></script><img src="data:image/png,x"><a href="https://a.example/">a</a>',
      {},
    ],
  ])("%s", async (_title, html, expected) => {
    expect(await needs(html)).toEqual(expected);
  });

  test.each([
    ["script-src", "a script", '<script src="data:text/javascript,go()"></script>'],
    ["script-src", "a script, with blanks and capitals", '<script src=" DATA:,go()"></script>'],
    ["style-src", "a style sheet", '<link rel=stylesheet href="data:text/css,p{}">'],
    ["frame-src", "a frame", '<iframe src="data:text/html,<script>go()</script>"></iframe>'],
    ["frame-src", "a frame of a blob", '<iframe src="blob:https://site.invalid/1"></iframe>'],
    ["object-src", "what is embedded", '<embed src="data:text/html,x">'],
    ["script-src", "a module that is preloaded", '<link rel=modulepreload href="data:text/javascript,1">'],
    ["form-action", "a form", '<form action="data:text/html,x"></form>'],
    ["script-src", "a base", '<base href="data:text/javascript,"><script src="data:,go()"></script>'],
  ])(
    "no scheme that strangers could use is in %s for %s, and it is said",
    async (directive, _title, html) => {
      const { sources, problems } = await readPageNeeds(html, false);
      expect([...sources.values()].flat().filter((source) => /^(?:data|blob):/i.test(source))).toEqual([]);
      expect(problems).toContainEqual(
        expect.stringMatching(
          new RegExp(`^it has a (?:data|blob): address that ${directive} would have to allow`),
        ),
      );
    },
  );

  test("a script of a folder is not allowed with all its neighbours", async () => {
    const { sources, problems } = await readPageNeeds(
      '<script src="https://cdn.example/all/"></script>',
      false,
    );
    expect([sources.size, problems.length]).toEqual([0, 1]);
  });

  test("what no policy covers is said", async () => {
    expect((await readPageNeeds('<a href=" javascript:go()">', false)).problems).toEqual([
      'a javascript: address ("javascript:go()") never runs under a policy; use a button and a script',
    ]);
    const many = Array.from({ length: 200 }, (_, i) => `<p style="top:${i}px">`).join("");
    const { problems, sources } = await readPageNeeds(many, false);
    expect([problems, sources.size]).toEqual([
      [
        "it has 200 different style attributes, and a policy that lists each would be too long; put them into files of the site",
      ],
      0,
    ]);
    const handlers = Array.from({ length: 200 }, (_, i) => `<p onclick="go(${i})">`).join("");
    expect((await readPageNeeds(handlers, false)).problems).toEqual([
      expect.stringContaining("it has 200 different handlers"),
    ]);
    // Each level is escaped once more: the work must not grow with the depth.
    let nested = "x";
    for (let level = 0; level < 12; level++)
      nested = `<iframe srcdoc="${nested.replaceAll("&", "&amp;").replaceAll('"', "&quot;")}"></iframe>`;
    expect((await readPageNeeds(nested, false)).problems).toEqual([
      "it has pages inside pages, more than 3 deep; put them into files",
    ]);
    const { hints } = await (await open()).explain({ method: "GET", target: "/bad.html", headers: {} });
    expect(hints).toEqual([
      'The policy does not cover the page: a javascript: address ("javascript:go()") never runs under a policy; use a button and a script.',
    ]);
  });

  test("the survey finds a page that its policy would break, and no page that it would not", async () => {
    const codes = async (protect: MountConfig["protect"]): Promise<string[]> => {
      const { findings } = await surveySite({ mounts: [{ source: memorySource(FILES), protect }] });
      return findings.filter(({ code }) => code === "policy-does-not-cover").map(({ address }) => address);
    };
    expect([await codes(true), await codes(false)]).toEqual([["/bad.html", "/bomb.svgz", "/cut.svgz"], []]);
  });

  test.each(["//b;frame-ancestors", "//b,c", "//*", "//*.example", "//b'c", "http://[::1]/a.js"])(
    "no policy can allow %s, and none tries to",
    async (address) => {
      for (const page of [`<script src="${address}"></script>`, `<img src="${address}">`]) {
        const found = await readPageNeeds(page, false);
        expect([...found.sources.values()]).toEqual([]);
        expect(found.problems).toEqual([
          expect.stringMatching(/^it names the host ".*", which no policy can allow; use another host$/),
        ]);
      }
    },
  );

  test("whatever a page says, no source begins another directive or field", async () => {
    const part = fc.constantFrom(
      "<script src='",
      '<img src="',
      "<form action=",
      "https://a.example/",
      "//b",
      ";",
      ",",
      " ",
      "'",
      '"',
      ">",
      "\n",
      "é",
      "default-src *",
      "%0a",
      "</script>",
      "<base href=",
    );
    await fc.assert(
      fc.asyncProperty(fc.array(part, { maxLength: 12 }), async (parts) => {
        for (const list of Object.values(await needs(parts.join(""))))
          for (const source of list) expect(source).toMatch(/^[\x21-\x2b\x2d-\x3a\x3c-\x7e]+$/);
      }),
    );
  });
});

describe("what can be said", () => {
  test.each<[string, MountConfig["protect"], Record<string, string | undefined>]>([
    [
      "only reported",
      { policy: "report-only", report: "/policy-reports" },
      {
        "Content-Security-Policy": undefined,
        "Content-Security-Policy-Report-Only": `default-src 'self'; ${COMMON}; report-to policy; report-uri /policy-reports`,
        "Reporting-Endpoints": 'policy="/policy-reports"',
      },
    ],
    [
      "no policy",
      { policy: "none" },
      { "Content-Security-Policy": undefined, "Referrer-Policy": "strict-origin-when-cross-origin" },
    ],
    [
      "more that is allowed",
      { allow: { "connect-src": ["https://api.larkholm.example"], "script-src": ["'wasm-unsafe-eval'"] } },
      {
        "Content-Security-Policy": `default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data:; font-src 'self' data:; connect-src 'self' https://api.larkholm.example; object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'self'`,
      },
    ],
    [
      "objects of a host, in the place of none",
      { allow: { "object-src": ["https://a.example"] } },
      {
        "Content-Security-Policy": `default-src 'self'; ${COMMON.replace("object-src 'none'", "object-src https://a.example")}`,
      },
    ],
    [
      "no framing",
      { framing: "none" },
      {
        "Content-Security-Policy": `default-src 'self'; ${COMMON.replace("ancestors 'self'", "ancestors 'none'")}`,
      },
    ],
    [
      "isolation, a feature, another referrer",
      { isolation: true, permissions: ["geolocation"], referrer: "no-referrer" },
      {
        "Cross-Origin-Opener-Policy": "same-origin",
        "Cross-Origin-Embedder-Policy": "require-corp",
        "Permissions-Policy": "camera=(), display-capture=(), microphone=(), payment=(), usb=()",
        "Referrer-Policy": "no-referrer",
      },
    ],
  ])("%s", async (_title, protect, expected) => {
    const fields = await fieldsOf(await open(protect), "/plain.html");
    for (const [name, value] of Object.entries(expected)) expect([name, fields[name]]).toEqual([name, value]);
  });

  test("a field of your own stands", async () => {
    const site = await open(true, {
      headers: [{ files: "plain.html", set: { "Content-Security-Policy": "default-src 'none'" } }],
    });
    expect(await policyOf(site, "/plain.html")).toBe("default-src 'none'");
  });

  test.each<[string, unknown, string]>([
    [
      "a longer word without quotes",
      { allow: { "script-src": ["unsafe-inline"] } },
      `write "'unsafe-inline'"`,
    ],
    [
      "a word without quotes",
      { allow: { "script-src": ["self"] } },
      `found "self"; a keyword of a policy needs its own quotes: write "'self'".`,
    ],
    ["none among others", { allow: { "connect-src": ["'none'"] } }, "'none' adds nothing"],
    ["framing in another place", { allow: { "frame-ancestors": ["a.example"] } }, "frame-ancestors"],
    [
      "two sources in one",
      { allow: { "script-src": ["a.example b.example"] } },
      "a source is one host, one scheme or one word",
    ],
    ["no directive", { allow: { scripts: ["a.example"] } }, "protect.allow"],
    ["a report to nowhere", { report: "policy" }, 'reports go to an address: write it as "/policy-reports"'],
    [
      "a feature in another way",
      { permissions: ["camera=()"] },
      "a feature is a name of the Permissions Policy",
    ],
  ])("stops for %s", async (_title, protect, message) => {
    await expect(open(protect as MountConfig["protect"])).rejects.toThrow(message);
  });
});

test("transport security is said over TLS alone, by whoever ends it", async () => {
  const site = await open({ transportSecurity: { maxAge: "30d", includeSubDomains: true } });
  const value = "max-age=2592000; includeSubDomains";
  for (const target of ["/", "/none", "/note.txt"]) {
    expect((await fieldsOf(site, target, { isSecure: true }))["Strict-Transport-Security"]).toBe(value);
    expect((await fieldsOf(site, target))["Strict-Transport-Security"]).toBeUndefined();
  }
  const web = webHandler(site);
  expect(
    (await web(new Request("https://larkholm.example/")))!.headers.get("strict-transport-security"),
  ).toBe(value);
  expect(
    (await web(new Request("http://larkholm.example/")))!.headers.get("strict-transport-security"),
  ).toBeNull();
  const { createServer } = await import("node:http");
  const server = createServer(nodeHandler(site, { proxies: 1 })).listen(0, "127.0.0.1");
  await new Promise((done) => server.once("listening", done));
  const { port } = server.address() as { port: number };
  // Twice each: the second answer is a kept one, and kept for each.
  for (let turn = 0; turn < 3; turn++) {
    for (const proto of ["https", "http"]) {
      const { headers } = await fetch(`http://127.0.0.1:${port}/`, {
        headers: { "X-Forwarded-For": "192.0.2.1", "X-Forwarded-Proto": proto },
      });
      expect([turn, proto, headers.get("strict-transport-security")]).toEqual([
        turn,
        proto,
        proto === "https" ? value : null,
      ]);
    }
  }
  server.close();
  server.closeAllConnections();
});

test("every XML document has a policy, whatever its type: scripts of pages run in it", async () => {
  const script = '<r><h:script xmlns:h="http://www.w3.org/1999/xhtml">go()</h:script></r>';
  const files = Object.fromEntries(
    ["feed.rss", "news.atom", "a.xml", "a.xsl", "a.xhtml", "b.svg", "track.gpx"].map((name) => [
      name,
      script,
    ]),
  );
  const site = await openSite({
    mounts: [{ source: memorySource({ ...files, "plain.xml": "<r>1</r>" }), protect: true }],
  });
  for (const name of Object.keys(files))
    expect([name, await policyOf(site, `/${name}`)]).toEqual([
      name,
      expect.stringContaining(`script-src 'self' ${digest("go()")}`),
    ]);
  // What browsers show of data has styles of their own.
  expect(await policyOf(site, "/plain.xml")).toContain(
    "default-src 'self'; style-src 'self' 'unsafe-inline'",
  );
});

test.each([
  ["declares entities", '<!DOCTYPE r [<!ENTITY a "b">]><r>&a;</r>', /^it declares entities of its own/],
  ["uses some of HTML", "<r>&nbsp;&constructor;</r>", /^it uses the entity &nbsp;/],
  ["never closes its elements", "<a>".repeat(300), /^its elements are nested more than 256 deep/],
  ["is no XML", "<<<".repeat(100), /^it is not well-formed XML/],
  [
    "becomes a page by a style sheet",
    '<?xml-stylesheet type="text/xsl" href="/feed.xsl"?><r/>',
    /^its style sheet makes a page of it/,
  ],
])("of a document that %s, it is said what its policy may not cover", async (_what, xml, told) => {
  expect((await readPageNeeds(xml, true)).problems).toEqual([expect.stringMatching(told)]);
});

test("under isolation a worker's script says that it keeps to it, and nothing else of a script does", async () => {
  const tree = { "worker.js": "1", "module.mjs": "1", "a.css": "", "index.html": "<p>" };
  const fieldOf = async (protect: MountConfig["protect"], path: string) =>
    (await fieldsOf(await openSite({ mounts: [{ source: memorySource(tree), protect }] }), path))[
      "Cross-Origin-Embedder-Policy"
    ];
  for (const path of ["/worker.js", "/module.mjs", "/"])
    expect([path, await fieldOf({ isolation: true }, path)]).toEqual([path, "require-corp"]);
  expect([await fieldOf({ isolation: true }, "/a.css"), await fieldOf(true, "/worker.js")]).toEqual([
    undefined,
    undefined,
  ]);
});

describe("a large page that was made to take long", () => {
  const fill = (unit: string): string => unit.repeat(Math.floor((1024 * 1024 - 100) / unit.length));
  const [b, a] = [Array.from({ length: 2000 }, (_, i) => `<b id=${i}>`).join(""), "<p>x</p>"];
  test.each([
    ["elements that are never closed", fill("<a>")],
    ["tables in tables", fill("<table>")],
    ["formatting that each paragraph takes over", b + fill(a).slice(b.length)],
    [
      "one element with very many attributes",
      `<p ${Array.from({ length: 100_000 }, (_, i) => `a${i}`).join(" ")}>`,
    ],
    [
      "a body that is opened again and again",
      Array.from({ length: 60_000 }, (_, i) => `<body a${i}>`).join(""),
    ],
    ["a comment without an end", `<!--${fill("<!--")}`],
  ])("others are answered while it is read, and it is read once: %s", async (_what, html) => {
    const site = await openSite({
      mounts: [
        {
          source: memorySource({ "a.html": html, "b.txt": "b" }),
          protect: true,
          preloads: true,
          kind: "app",
          appShell: "/a.html",
        },
      ],
    });
    let isDone = false;
    let turns = 0;
    const asked = Promise.all(
      ["/a.html", "/a.html", "/deep/link"].map((target) =>
        fieldsOf(site, target, { headers: { accept: "text/html", "sec-fetch-mode": "navigate" } }),
      ),
    ).then((fields) => {
      isDone = true;
      return fields;
    });
    while (!isDone) {
      expect(await fieldsOf(site, "/b.txt")).toMatchObject({ "Content-Length": "1" });
      await new Promise((resolve) => setImmediate(resolve));
      turns++;
    }
    expect(turns).toBeGreaterThan(10);
    for (const fields of await asked)
      expect(fields["Content-Security-Policy"]).toContain("default-src 'self'");
  });
});
