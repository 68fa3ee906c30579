import assert from "node:assert/strict";
import { mkdir, mkdtemp, rm, symlink, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { readPlan } from "../.cache/build/adapters/in-process.js";
import { memorySource, openSite } from "../.cache/build/index.js";

/** Stands in what no visitor may see. */
const CANARY = "CANARY-7f3a";

const FILES = {
  "index.html": "<h1>Larkholm</h1>",
  "404.html": "<h1>Not here</h1>",
  "guide/waders.html": "waders",
  "guide/Óðinshani.html": "phalarope",
  "data/ringing 2026.csv": "ring,species\n".repeat(90),
  "data/ringing 2026.csv.br": "coded",
  "app/index.html": "<div id=app></div>",
  "app/assets/app-5f3a91bc.js": "export {};",
  "empty.txt": "",
  "a;b=c,d.txt": "odd",
  "view.png": "png",
  "view.avif": "avif",
  "guide/waders.nb.html": "vadefugler",
};
const HIDDEN = {
  ".env": CANARY,
  "drafts/report.html": CANARY,
  "app/assets/app.js.map": CANARY,
  "keys/private.pem": CANARY,
};

async function openTarget() {
  const folder = await mkdtemp(join(tmpdir(), "epistyle-fuzz-"));
  const put = async (path, content) => {
    await mkdir(join(folder, path, ".."), { recursive: true });
    await writeFile(join(folder, path), content);
  };
  for (const [path, content] of Object.entries({ ...FILES, ...HIDDEN })) await put(`site/${path}`, content);
  await put("outside.txt", CANARY);
  await symlink("../outside.txt", join(folder, "site/out.txt"));
  await symlink("..", join(folder, "site/up"));
  await symlink("drafts", join(folder, "site/shown"));
  await symlink("guide", join(folder, "site/birds"));
  const rules = {
    withheld: ["drafts", "keys/**", "*.map"],
    listing: true,
    impliedExtensions: [".html"],
    codings: { prebuilt: ["br"], compress: true },
    errorPages: { 404: "/404.html" },
    caching: [{ files: "**/*-*.js", policy: "immutable" }],
    variants: { formats: ["avif"], languages: ["en", "nb"] },
    protect: { transportSecurity: "1d" },
    digests: true,
    preloads: true,
    noVarySearch: true,
    areas: {
      "/app": { appShell: "/app/index.html", listing: false },
      "/guide": { longAddresses: "redirect" },
      "/data": { downloads: ["*.csv"], crossOrigin: ["https://larkholm.example"] },
    },
  };
  const site = await openSite({
    moved: {
      "/old/": "/guide/",
      "/drafts/": "/guide/",
      "/shop/": "https://shop.larkholm.example/",
      "/map": "/guide/waders",
    },
    gone: ["/past/"],
    mounts: [
      { folder: join(folder, "site"), ...rules },
      { at: "/memory", source: memorySource({ ...FILES, ...HIDDEN }), ...rules },
    ],
  });
  return { site, close: () => rm(folder, { recursive: true, force: true }) };
}

const segments = [
  ...Object.keys(FILES),
  ...Object.keys(HIDDEN),
  "out.txt",
  "up",
  "shown",
  "birds",
  "app",
  "guide",
  "data",
  "memory",
  "keys",
  "old",
  "past",
  "shop",
  "map",
].flatMap((path) => [...path.split("/"), path]);
const PIECES = [
  "/",
  "//",
  "..",
  ".",
  "%2e",
  "%2E%2e",
  "%2f",
  "%5c",
  "\\",
  "%00",
  "%",
  "%4",
  "%zz",
  "%c0%af",
  "%ef%bf%bd",
  "?",
  "#",
  "&",
  "?order=size&page=2",
  ";",
  ":",
  "*",
  " ",
  "\u0000",
  "\u0301",
  "é",
  "A",
  "http://a/",
  "~",
  "nul",
  "a.",
  "::$DATA",
];
const target = fc.oneof(
  {
    weight: 3,
    arbitrary: fc
      .array(fc.constantFrom(...segments, ...PIECES), { minLength: 1, maxLength: 7 })
      .map((all) => `/${all.join("")}`),
  },
  {
    weight: 3,
    arbitrary: fc
      .array(fc.constantFrom(...segments, "..", ".", "%2e%2e", ""), { minLength: 1, maxLength: 5 })
      .map((all) => `/${all.join("/")}`),
  },
  { weight: 1, arbitrary: fc.string({ unit: "binary", maxLength: 40 }) },
  {
    weight: 4,
    arbitrary: fc
      .tuple(fc.constantFrom("", "memory/"), fc.constantFrom(...segments))
      .map(([mount, path]) => `/${mount}${encodeURI(path)}`),
  },
);

const token = fc.constantFrom(
  "text/html",
  "*/*",
  "text/*;q=0.5",
  "application/json",
  "gzip",
  "br",
  "identity;q=0",
  "*",
  "q=1.0001",
  '"a"',
  'W/"',
  '"',
  "bytes=",
  "0-0",
  "-5",
  "5-",
  "9-2",
  "0-0,2-3",
  "Wed, 25 Nov 2026 10:00:00 GMT",
  "navigate",
  "image/avif",
  "nb",
  "sha-256=5",
  "no-transform",
  "max-age=0",
  ",",
  ";",
  "=",
  " ",
  "\t",
  "\\",
  "\u00e9",
  "1e9",
  "99999999999999999999",
  "https://larkholm.example",
);
const value = fc.array(token, { maxLength: 6 }).map((all) => all.join(""));
const NAMES = [
  "accept",
  "accept-encoding",
  "accept-language",
  "want-repr-digest",
  "want-content-digest",
  "range",
  "if-range",
  "if-match",
  "if-none-match",
  "if-modified-since",
  "if-unmodified-since",
  "cache-control",
  "origin",
  "sec-fetch-mode",
  "access-control-request-method",
];
const headers = fc.dictionary(fc.constantFrom(...NAMES), value, { maxKeys: 5 });
const method = fc.oneof(
  { weight: 8, arbitrary: fc.constantFrom("GET", "HEAD") },
  fc.constantFrom("POST", "OPTIONS", "DELETE", "get", "", "TRACE"),
);

/** Whatever a request says, the answer keeps these promises. */
async function check(site, request) {
  const answer = await site.respond(request);
  if (answer.kind === "pass") {
    assert(request.mayPass, "handed on although nothing stands behind");
    return "handed on";
  }
  const { status } = answer;
  assert([200, 204, 206, 301, 304, 400, 403, 404, 405, 410, 412, 416].includes(status), `status ${status}`);
  const fields = [...answer.fields].map(({ name, value }) => [name.toLowerCase(), value]);
  for (const [name, value] of fields) {
    // RFC 9110 §5.5: nothing of a request may end a field, or begin another.
    assert(/^[\t\x20-\x7e\x80-\xff]*$/.test(value), `${name}: ${JSON.stringify(value)}`);
    assert(!value.includes(CANARY), `${name} tells what is hidden`);
  }
  const of = new Map(fields);
  assert.equal(of.size, fields.length, `a field twice: ${fields.map(([name]) => name)}`);
  const body = await readPlan(answer);
  assert(!Buffer.from(body).includes(CANARY), "the body tells what is hidden");
  const hasNone = request.method === "HEAD" || status === 304 || status === 204;
  if (hasNone) assert.equal(body.length, 0, `a body with ${request.method} ${status}`);
  else assert.equal(Number(of.get("content-length")), body.length, "Content-Length");
  if (status === 206 && !of.get("content-type")?.startsWith("multipart/")) {
    const [, first, last, size] = /^bytes (\d+)-(\d+)\/(\d+)$/.exec(of.get("content-range")).map(Number);
    assert(first <= last && last < size, of.get("content-range"));
    if (!hasNone) assert.equal(last - first + 1, body.length, "the part's length");
  }
  // A redirect stays on the site, or leads to the one that a rule names.
  if (status === 301) {
    const to = of.get("location");
    assert(/^\.{1,2}\//.test(to) || to.startsWith("https://shop.larkholm.example/"), to);
    assert(["a.invalid", "shop.larkholm.example"].includes(new URL(to, "http://a.invalid/x/").host), to);
  }
  return String(status);
}

export const requests = {
  name: "requests",
  share: 80,
  async open() {
    const { site, close } = await openTarget();
    return {
      arbitrary: fc.record({ method, target, headers, mayPass: fc.constantFrom(false, false, false, true) }),
      check: (request) => check(site, request),
      close,
    };
  },
};
