import { createHash } from "node:crypto";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { nodeHandler } from "../src/adapters/node.js";
import { webHandler } from "../src/adapters/web.js";
import { readPageNeeds } from "../src/config/page-needs.js";
import { type MountConfig, memorySource, type Site } from "../src/index.js";
import { surveySite } from "../src/survey/index.js";
import { openSite } from "./counting-source.js";

// The protective fields of documents: a policy that is made of each page, and what goes with it.
const digest = (text: string): string => `'sha256-${createHash("sha256").update(text).digest("base64")}'`;
const FILES = {
  "index.html": '<!doctype html><script>go("é")</script><script type="application/json">{}</script><style>p{}</style><script src="/own.js"></script><img src="/a.png">',
  "plain.html": "<!doctype html><p>Larkholm",
  "404.html": "<script>lost()</script>",
  "picture.svg": '<svg xmlns="http://www.w3.org/2000/svg"><style>path{}</style></svg>',
  "data.json": "{}",
  "note.txt": "hello",
  "bad.html": '<a href="javascript:go()">go</a>',
  "latin.html": Buffer.from('<meta charset="iso-8859-1"><script>go("é")</script>', "latin1"),
  "unknown.html": '<meta charset="x-bird"><script>go("é")</script>',
  "wide.html": Buffer.from("\ufeff<script>go('é')</script>", "utf16le"),
  "wider.html": Buffer.from("\ufeff<script>go('é')</script>", "utf16le").swap16(),
  "dos.html": "<script>\r\na()\r\n</script>",
};
const open = (protect: MountConfig["protect"] = true, more: MountConfig = {}): Promise<Site> => openSite({ mounts: [{ source: memorySource(FILES), errorPages: { 404: "/404.html" }, protect, ...more }] });

async function fieldsOf(site: Site, target: string, more: object = {}): Promise<Record<string, string>> {
  const answer = await site.respond({ method: "GET", target, headers: {}, ...more });
  if (answer.kind === "pass") throw new Error("passed");
  if (answer.body.kind === "file") answer.body.file.close();
  return Object.fromEntries([...answer.fields].map(({ name, value }) => [name, value]));
}
const policyOf = async (site: Site, target: string): Promise<string | undefined> => (await fieldsOf(site, target))["Content-Security-Policy"];

const COMMON = "img-src 'self' data:; font-src 'self' data:; object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'self'";

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
  expect(await policyOf(site, "/picture.svg")).toContain(`style-src 'self' ${digest("path{}")}`);
  // As browsers read them: in the page's own charset, and with line ends of one kind.
  expect(await policyOf(site, "/latin.html")).toContain(digest('go("é")'));
  expect(await policyOf(site, "/unknown.html")).toContain(digest('go("é")'));
  for (const path of ["/wide.html", "/wider.html"]) expect(await policyOf(site, path)).toContain(digest("go('é')"));
  expect(await policyOf(site, "/dos.html")).toContain(digest("\na()\n"));
  for (const path of ["/data.json", "/note.txt"]) expect(Object.keys(await fieldsOf(site, path))).not.toContain("Content-Security-Policy");
  expect(await policyOf(await open(false), "/")).toBeUndefined();
});

describe("what a page needs", () => {
  const needs = async (html: string, isXml = false): Promise<Record<string, readonly string[]>> => Object.fromEntries((await readPageNeeds(html, isXml)).sources);

  test.each<[string, string, Record<string, string[]>]>([
    ["scripts of other hosts by their whole address", '<script src="https://cdn.larkholm.example/a.js?v=1"></script>', { "script-src": ["https://cdn.larkholm.example/a.js"] }],
    ["without a scheme", '<script src="//cdn.larkholm.example/a;b.js"></script>', { "script-src": ["cdn.larkholm.example/a%3Bb.js"] }],
    [
      "pictures, films and frames by their hosts",
      '<img src="https://a.example/x.png" srcset="https://b.example/y.png 2x, /z.png"><video src="http://c.example/v" poster="https://d.example/p"></video><iframe src="https://e.example/f"></iframe>',
      { "img-src": ["https://a.example", "https://b.example", "https://d.example"], "media-src": ["http://c.example"], "frame-src": ["https://e.example"] },
    ],
    [
      "what links load",
      '<link rel="stylesheet" href="https://a.example/s.css"><link rel=preload as=font href="https://b.example/f"><link rel="modulepreload" href="https://c.example/m.js"><link rel=canonical href="https://d.example/">',
      { "style-src": ["https://a.example/s.css"], "font-src": ["https://b.example"], "script-src": ["https://c.example/m.js"] },
    ],
    ["forms and a base", '<base href="https://base.example/x/"><form action="https://forms.example/"></form><script src="a.js"></script>', { "base-uri": ["https://base.example"], "form-action": ["https://forms.example"], "script-src": ["https://base.example/x/a.js"] }],
    [
      "the first base counts, and no other element's address is one",
      '<a href="https://a.example/"></a><base href="https://b.example/"><base href="https://c.example/"><script src="m.js"></script>',
      { "base-uri": ["https://b.example", "https://c.example"], "script-src": ["https://b.example/m.js"] },
    ],
    ["words with any blanks between them", "<link rel='x \n  stylesheet' href=https://a.example/s.css>", { "style-src": ["https://a.example/s.css"] }],
    ["no script of blanks", "<script>\n </script><style> </style>", {}],
    ["handlers and style attributes", '<p style="color:red" onclick="go()">', { "script-src": [digest("go()"), "'unsafe-hashes'"], "style-src": [digest("color:red"), "'unsafe-hashes'"] }],
    ["an import map and a module, and no template", '<script type="importmap">{}</script><script type=module>m()</script><script type="text/x-template">t</script>', { "script-src": [digest("{}"), digest("m()")] }],
    ["a type that only begins like a script's", '<script type="module/x">t</script><script type="text/javascript1.9">u</script><script type=" Text/JavaScript ">v()</script>', { "script-src": [digest("v()")] }],
    ["a list of pictures is none for another attribute", '<img src="https://a.example/x,  y.png 2x">', { "img-src": ["https://a.example"] }],
    ["a page inside the page", '<iframe srcdoc="&lt;script&gt;inner()&lt;/script&gt;"></iframe>', { "script-src": [digest("inner()")] }],
    ["a comment and a text are no elements", "<!-- <script>no()</script> --><textarea><script>no()</script></textarea>", {}],
    ["an object of its own", '<object data="/a.svg"></object>', { "object-src": ["'self'"] }],
    ["a script is no markup", "<script>a && b &amp; '<style>'</script>", { "script-src": [digest("a && b &amp; '<style>'")] }],
    ["what is embedded, and hosts with digits and ports", '<embed src="https://a.b2.example:8080/x"><embed src="/own">', { "object-src": ["https://a.b2.example:8080", "'self'"] }],
    ["what stands in the address", '<script src="data:text/javascript,go()"></script><iframe src="blob:https://site.invalid/1"></iframe><link rel=preload as=font href="data:font/woff2,x">', { "script-src": ["data:"], "frame-src": ["blob:"] }],
    ["nothing of what is empty", '<p style=" "></p><script src=" "></script><img src="" srcset=" "><object data=""></object>', {}],
    ["nothing of what is its own", '<script src="/a.js"></script><img src="data:image/png,x"><a href="https://a.example/">a</a>', {}],
  ])("%s", async (_title, html, expected) => {
    expect(await needs(html)).toEqual(expected);
  });

  test("what no policy covers is said", async () => {
    expect((await readPageNeeds('<a href=" javascript:go()">', false)).problems).toEqual(['a javascript: address ("javascript:go()") never runs under a policy; use a button and a script']);
    const many = Array.from({ length: 200 }, (_, i) => `<p style="top:${i}px">`).join("");
    const { problems, sources } = await readPageNeeds(many, false);
    expect([problems, sources.size]).toEqual([["it has 200 different style attributes, and a policy that lists each would be too long; put them into files of the site"], 0]);
    const handlers = Array.from({ length: 200 }, (_, i) => `<p onclick="go(${i})">`).join("");
    expect((await readPageNeeds(handlers, false)).problems).toEqual([expect.stringContaining("it has 200 different handlers")]);
    // Each level is escaped once more: the work must not grow with the depth.
    let nested = "x";
    for (let level = 0; level < 12; level++) nested = `<iframe srcdoc="${nested.replaceAll("&", "&amp;").replaceAll('"', "&quot;")}"></iframe>`;
    expect((await readPageNeeds(nested, false)).problems).toEqual(["it has pages inside pages, more than 3 deep; put them into files"]);
    const { hints } = await (await open()).explain({ method: "GET", target: "/bad.html", headers: {} });
    expect(hints).toEqual(['The policy does not cover the page: a javascript: address ("javascript:go()") never runs under a policy; use a button and a script.']);
  });

  test("the survey finds a page that its policy would break, and no page that it would not", async () => {
    const codes = async (protect: MountConfig["protect"]): Promise<string[]> => {
      const { findings } = await surveySite({ mounts: [{ source: memorySource(FILES), protect }] });
      return findings.filter(({ code }) => code === "policy-does-not-cover").map(({ address }) => address);
    };
    expect([await codes(true), await codes(false)]).toEqual([["/bad.html"], []]);
  });

  test.each(["//b;frame-ancestors", "//b,c", "//*", "//*.example", "//b'c", "http://[::1]/a.js"])("no policy can allow %s, and none tries to", async (address) => {
    for (const page of [`<script src="${address}"></script>`, `<img src="${address}">`]) {
      const found = await readPageNeeds(page, false);
      expect([...found.sources.values()]).toEqual([]);
      expect(found.problems).toEqual([expect.stringMatching(/^it names the host ".*", which no policy can allow; use another host$/)]);
    }
  });

  test("whatever a page says, no source begins another directive or field", async () => {
    const part = fc.constantFrom("<script src='", '<img src="', "<form action=", "https://a.example/", "//b", ";", ",", " ", "'", '"', ">", "\n", "é", "default-src *", "%0a", "</script>", "<base href=");
    await fc.assert(
      fc.asyncProperty(fc.array(part, { maxLength: 12 }), async (parts) => {
        for (const list of Object.values(await needs(parts.join("")))) for (const source of list) expect(source).toMatch(/^[\x21-\x2b\x2d-\x3a\x3c-\x7e]+$/);
      }),
    );
  });
});

describe("what can be said", () => {
  test.each<[string, MountConfig["protect"], Record<string, string | undefined>]>([
    [
      "only reported",
      { policy: "report-only", report: "/policy-reports" },
      { "Content-Security-Policy": undefined, "Content-Security-Policy-Report-Only": `default-src 'self'; ${COMMON}; report-to policy; report-uri /policy-reports`, "Reporting-Endpoints": 'policy="/policy-reports"' },
    ],
    ["no policy", { policy: "none" }, { "Content-Security-Policy": undefined, "Referrer-Policy": "strict-origin-when-cross-origin" }],
    [
      "more that is allowed",
      { allow: { "connect-src": ["https://api.larkholm.example"], "script-src": ["'wasm-unsafe-eval'"] } },
      { "Content-Security-Policy": `default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data:; font-src 'self' data:; connect-src 'self' https://api.larkholm.example; object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'self'` },
    ],
    ["objects of a host, in the place of none", { allow: { "object-src": ["https://a.example"] } }, { "Content-Security-Policy": `default-src 'self'; ${COMMON.replace("object-src 'none'", "object-src https://a.example")}` }],
    ["no framing", { framing: "none" }, { "Content-Security-Policy": `default-src 'self'; ${COMMON.replace("ancestors 'self'", "ancestors 'none'")}` }],
    [
      "isolation, a feature, another referrer",
      { isolation: true, permissions: ["geolocation"], referrer: "no-referrer" },
      { "Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Embedder-Policy": "require-corp", "Permissions-Policy": "camera=(), display-capture=(), microphone=(), payment=(), usb=()", "Referrer-Policy": "no-referrer" },
    ],
  ])("%s", async (_title, protect, expected) => {
    const fields = await fieldsOf(await open(protect), "/plain.html");
    for (const [name, value] of Object.entries(expected)) expect([name, fields[name]]).toEqual([name, value]);
  });

  test("a field of your own stands", async () => {
    const site = await open(true, { headers: [{ files: "plain.html", set: { "Content-Security-Policy": "default-src 'none'" } }] });
    expect(await policyOf(site, "/plain.html")).toBe("default-src 'none'");
  });

  test.each<[string, unknown, string]>([
    ["a longer word without quotes", { allow: { "script-src": ["unsafe-inline"] } }, `write "'unsafe-inline'"`],
    ["a word without quotes", { allow: { "script-src": ["self"] } }, `found "self"; a keyword of a policy needs its own quotes: write "'self'".`],
    ["none among others", { allow: { "connect-src": ["'none'"] } }, "'none' adds nothing"],
    ["framing in another place", { allow: { "frame-ancestors": ["a.example"] } }, "frame-ancestors"],
    ["two sources in one", { allow: { "script-src": ["a.example b.example"] } }, "a source is one host, one scheme or one word"],
    ["no directive", { allow: { scripts: ["a.example"] } }, "protect.allow"],
    ["a report to nowhere", { report: "policy" }, 'reports go to an address: write it as "/policy-reports"'],
    ["a feature in another way", { permissions: ["camera=()"] }, "a feature is a name of the Permissions Policy"],
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
  expect((await web(new Request("https://larkholm.example/")))!.headers.get("strict-transport-security")).toBe(value);
  expect((await web(new Request("http://larkholm.example/")))!.headers.get("strict-transport-security")).toBeNull();
  const { createServer } = await import("node:http");
  const server = createServer(nodeHandler(site, { proxies: 1 })).listen(0, "127.0.0.1");
  await new Promise((done) => server.once("listening", done));
  const { port } = server.address() as { port: number };
  // Twice each: the second answer is a kept one, and kept for each.
  for (let turn = 0; turn < 3; turn++) {
    for (const proto of ["https", "http"]) {
      const { headers } = await fetch(`http://127.0.0.1:${port}/`, { headers: { "X-Forwarded-For": "192.0.2.1", "X-Forwarded-Proto": proto } });
      expect([turn, proto, headers.get("strict-transport-security")]).toEqual([turn, proto, proto === "https" ? value : null]);
    }
  }
  server.close();
  server.closeAllConnections();
});
