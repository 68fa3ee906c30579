import assert from "node:assert/strict";
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { parse } from "yaml";
import { loadConfigFile } from "../.cache/build/config/config-file.js";
import { openSite, SiteError } from "../.cache/build/index.js";
import { listSeal } from "../.cache/build/site/seal-file.js";
import { observeRecording } from "../.cache/build/testing/draft/from-har.js";
import { writeDraft } from "../.cache/build/testing/draft/write.js";
import { expandCases } from "../.cache/build/testing/format/expand.js";
import { loadExpectations } from "../.cache/build/testing/format/load.js";

const CONFIG = `moved: { /old/: /guide/, /map: { to: "/visit?from=map", temporary: true }, /shop/: "https://shop.larkholm.example/" }
gone: [/past/]
mounts:
  - folder: ${JSON.stringify(join(import.meta.dirname, "../demo/site"))}
    links: none
    withheld: [drafts, "*.bak"]
    listing: { title: Larkholm, pageSize: 20, order: time }
    defaultDocuments: [index.html]
    impliedExtensions: [.html]
    caching: [{ files: "*.css", policy: revalidate }, { files: fingerprinted, policy: immutable }]
    headers: [{ files: "**", set: { X-Larkholm: "yes" } }]
    mediaTypes: { .bird: text/plain }
    errorPages: { 404: /404.html }
    crossOrigin: [https://larkholm.example]
    codings: { prebuilt: [br, zstd], compress: true }
    variants: { formats: [avif], languages: [en, nb] }
    protect: { policy: report-only, allow: { connect-src: ["https://api.larkholm.example"] }, framing: none, transportSecurity: 1d }
    digests: true
    preloads: true
    noVarySearch: [utm_source]
    areas: { /app: { appShell: /index.html, whenMissing: answer } }
`;

const EXPECTATIONS = `version: 1
variables: { page: /guide/ }
groups:
  - name: pages
    under: /
    request: { headers: { Accept: text/html } }
    expect: { status: 200, mediaType: text/html, caching: fresh for at least 1 hour }
    alsoAsk: [revisit, head, { range: bytes=0-9 }]
    cases:
      - { name: front, request: "GET \${page}", expect: { body: { contains: [a], matches: "a+", json: { a: [1] } } } }
      - { name: all, each: "**/*.html", expect: { headers: { Vary: { lists: Accept } }, coding: br } }
`;

const RECORDING = JSON.stringify({
  log: {
    version: "1.2",
    entries: ["/", "/style.css", "/bird.png", "/none"].map((path) => ({
      request: {
        method: "GET",
        url: `http://larkholm.invalid${path}`,
        headers: [{ name: "Accept", value: "*/*" }],
      },
      response: {
        status: path === "/none" ? 404 : 200,
        headers: [
          { name: "Content-Type", value: "text/html" },
          { name: "Cache-Control", value: "max-age=60" },
        ],
        content: { mimeType: "text/html", text: "<title>a</title>", encoding: undefined },
      },
    })),
  },
});

/** Names that every object inherits. */
const INHERITED = ["constructor", "toString", "__proto__", "valueOf", "hasOwnProperty"];

const JUNK = [
  "",
  "null",
  "true",
  "-1",
  "1e308",
  "[]",
  "{}",
  "[[]]",
  '"',
  "'",
  "&a",
  "*a",
  "<<: *a",
  "!!binary x",
  "? ",
  ": ",
  "- ",
  "\t",
  "\n",
  "\n  ",
  "#",
  "$" + "{page}",
  "${",
  "$${",
  "\u0000",
  "\ud800",
  "__proto__",
  "constructor",
  "..",
  "/",
  "https://",
  "(",
  "[a-",
  "9999999999999999999999",
  "1 fortnight",
  ",",
  "]",
  "}",
  "{",
  "%YAML 9",
  "---",
  "\ufeff",
  ...INHERITED,
];

/** A text with some of its characters replaced, left out, doubled or followed by junk. */
function mutatedText(text) {
  const put = fc.oneof(
    fc.constantFrom(...JUNK),
    fc.string({ unit: "binary", maxLength: 4 }),
    fc.nat(text.length).map((from) => text.slice(from, from + 30)),
  );
  const change = fc.record({ at: fc.nat(text.length), length: fc.nat(12), put });
  return fc
    .array(change, { minLength: 1, maxLength: 3 })
    .map((changes) =>
      changes.reduce(
        (whole, { at, length, put }) => whole.slice(0, at) + put + whole.slice(at + length),
        text,
      ),
    );
}

const VALUES = [
  ...JUNK,
  null,
  true,
  false,
  0,
  -1,
  1e308,
  404,
  [],
  {},
  [null],
  { a: 1 },
  "/index.html",
  "*.css",
  "**/a/**",
  "immutable",
  "revalidate",
  "text/html; charset=utf-8",
  "GET /",
  "bytes=0-",
  "300d",
  "GET /\r\nX: y",
];

/** What a text stands for with some of its values exchanged, left out or renamed: it is well-formed, and may mean nothing. */
function mutatedValue(text) {
  const change = fc.record({
    at: fc.nat(10_000),
    how: fc.constantFrom("exchange", "exchange", "leave out", "rename", "copy"),
    value: fc.constantFrom(...VALUES),
    from: fc.nat(10_000),
  });
  return fc.array(change, { minLength: 1, maxLength: 3 }).map((changes) => {
    const whole = parse(text);
    for (const { at, how, value, from } of changes) {
      const all = places(whole);
      if (all.length === 0) break;
      const [holder, key] = all[at % all.length];
      const [other, otherKey] = all[from % all.length];
      if (how === "exchange") holder[key] = value;
      else if (how === "copy") holder[key] = structuredClone(other[otherKey]);
      else if (Array.isArray(holder)) holder.splice(key, 1);
      else {
        const name = typeof value === "string" ? value : JSON.stringify(value);
        // As a member, this name is written only in text.
        if (how === "rename" && name !== "__proto__") holder[name] = holder[key];
        delete holder[key];
      }
    }
    return JSON.stringify(whole);
  });
}

/** Where the values of a value stand. */
function places(value) {
  if (typeof value !== "object" || value === null) return [];
  return Object.keys(value).flatMap((key) => [[value, key], ...places(value[key])]);
}

/** A file that is mutated and read: it is taken, or refused in sentences that begin with its name. */
function makeKind({ name, file, text, use, values = mutatedValue }) {
  return {
    name,
    share: 2,
    async open() {
      const folder = await mkdtemp(join(tmpdir(), "epistyle-fuzz-"));
      const path = join(folder, file);
      await writeFile(path, text);
      await use(path);
      return {
        arbitrary: fc.oneof(mutatedText(text), values(text)),
        async check(written) {
          await writeFile(path, written);
          try {
            await use(path);
            return "taken";
          } catch (error) {
            assert(error instanceof SiteError, error instanceof Error ? error.stack : String(error));
            for (const line of error.message.split("\n"))
              assert(
                line.length < 4000 && !/\[object|\[native code\]|undefined is not|Cannot read/.test(line),
                line,
              );
            return "refused";
          }
        },
        close: () => rm(folder, { recursive: true, force: true }),
      };
    },
  };
}

export const configurations = makeKind({
  name: "configurations",
  file: "site.yaml",
  text: CONFIG,
  use: async (path) => openSite(await loadConfigFile(path)),
});

export const expectations = makeKind({
  name: "expectations",
  file: "expectations.yaml",
  text: EXPECTATIONS,
  use: async (path) =>
    expandCases(await loadExpectations(path), async () => [
      {
        path: "/index.html",
        kind: "file",
        mount: "/",
        mediaType: "text/html",
        fingerprinted: false,
        sizeBytes: 3,
      },
    ]),
});

export const recordings = makeKind({
  name: "recordings",
  file: "visit.har",
  text: RECORDING,
  async use(path) {
    const { address, observed } = await observeRecording(path);
    const draft = await writeDraft(observed, {
      about: address,
      against: `${address}/`,
      command: "epistyle check FILE",
    });
    // What is drafted can be read.
    const out = join(path, "../draft.yaml");
    await writeFile(out, draft);
    await expandCases(await loadExpectations(out), undefined);
    assert((await readFile(out, "utf8")).length > 0);
  },
});

const SEAL = [
  '{"seal":1,"mounts":[{"at":"/","files":2},{"at":"/archive","files":1}]}',
  ...[
    [0, "index.html"],
    [0, "guide/rails.html"],
    [1, "2026.pdf"],
  ].map(([mount, path]) =>
    JSON.stringify({
      mount,
      path,
      size: 3,
      digest: `sha-256=:${"A".repeat(43)}=:`,
      modified: "2026-11-01T00:00:00.000Z",
      type: "text/html",
    }),
  ),
].join("\n");

/** A line of a seal is JSON, and the whole is not: each line is changed by itself. */
export const seals = makeKind({
  name: "seals",
  file: "seal.jsonl",
  text: SEAL,
  values: (text) =>
    fc
      .tuple(
        ...text.split("\n").map((line) => fc.oneof(fc.constant(line), mutatedValue(line), mutatedText(line))),
      )
      .map((lines) => lines.join("\n")),
  use: listSeal,
});
