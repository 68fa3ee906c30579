import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { fileHandler, loadConfigFile, nodeHandler, startServer, writeSeal } from "../src/adapters/node.js";
import { memorySource, openSite, type SiteError } from "../src/index.js";
import { surveySite } from "../src/survey/index.js";
import {
  assertMeets,
  loadExpectations,
  makeTemporaryTree,
  openProbe,
  runPacks,
} from "../src/testing/index.js";
import { makeTree, type Tree } from "./helpers.js";

// Wrong uses, and the sentence that each gets: what is wrong, where, and what to write.
let tree: Tree;
beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "home",
    "empty.yaml": "",
    "list.yaml": "[]\n",
    "tab.yaml": "mounts:\n\t- folder: public\n",
    "brace.yaml": "mounts: [ { folder: public\n",
    "twice.yaml": "mounts: []\nmounts: []\n",
    "star.yaml": "mounts:\n  - folder: public\n    withheld: [*.bak]\n",
    "policy.yaml":
      'mounts:\n  - caching: [{ files: "*.css }", policy: { maxAge: 1h }\n    areas:\n      /x: { listing: true }\n',
    "unclosed.yaml": "mounts:\n  - caching:\n      - { files: '*', policy: immutable\n    kind: app\n",
    "dash.yaml": "mounts: [\n  - folder: public\n]\n",
  });
});
afterAll(() => tree.remove());

test.each([
  [
    "an empty file",
    "empty.yaml",
    "found nothing; a group of keys is needed here: begin with mounts: [{ folder: ./public }]",
  ],
  ["a list", "list.yaml", "list.yaml:1:1: found []; a group of keys is needed here: begin with mounts:"],
  ["a tab", "tab.yaml", "tab.yaml:2:1: found a tab; YAML is indented with spaces"],
  ["an open bracket", "brace.yaml", "brace.yaml:1:11: the bracket { is not closed; write } at its end."],
  ["one in the midst", "policy.yaml", "policy.yaml:2:15: the bracket { is not closed; write } at its end."],
  [
    "one before other keys",
    "unclosed.yaml",
    "unclosed.yaml:3:9: the bracket { is not closed; write } at its end.",
  ],
  [
    "a dash in brackets",
    "dash.yaml",
    "dash.yaml:2:3: keys without braces, or list entries with a dash, stand in brackets; put { } around the keys, and commas between entries.",
  ],
  ["a key that stands there twice", "twice.yaml", "twice.yaml:2:1: the key is here twice; write it once."],
  [
    "a pattern without quotes",
    "star.yaml",
    'star.yaml:3:16: found *.bak without quotes, which YAML reads as an alias; put patterns in quotes: "*.bak".',
  ],
  ["a folder", "public", "public: this is a folder; name the configuration file in it."],
  [
    "another ending",
    "typed.toml",
    "typed.toml: a configuration is a .yaml, .json, .js, .mjs, .cjs, .ts or .mts file",
  ],
])("as a configuration: %s", async (_title, file, message) => {
  await expect(loadConfigFile(join(tree.root, file))).rejects.toThrow(message);
});

// Under the first mount, in the third line of a file: read in this process, as each command reads it.
test.each([
  ["kind: spa", 'found "spa"; write "app"'],
  ["spa: true", 'found the key "spa"; write kind: app, which answers deep links with index.html'],
  ["index: home.html", 'found the key "index"; write "defaultDocuments"'],
  ["fallback: index.html", 'found the key "fallback"; write "appShell"'],
  ["max-age: 1d", 'found the key "max-age"; write "caching"'],
  ["root: dist", 'found the key "root"; write "folder"'],
  ["prefix: /a", 'found the key "prefix"; write "at"'],
  ["immutable: true", 'found the key "immutable"; write "caching"'],
  ["redirects: []", '"moved" is a key of the whole site: write it beside mounts'],
  ["port: 80", "the server sets it: write --port, or startServer(site, { port })"],
  ["source: x", "a file has folders only: write folder: ./public"],
  ["at: archive", 'a prefix starts with a slash: write "/archive"'],
  ["at: /a/../b", 'a prefix has no empty or dot segments: write it as "/a/b"'],
  ["at: /a/..", "a prefix has no empty or dot segments: write it as"],
  ["protect: { allow: { script-src: ['self x'] } }", "a source is one host, one scheme or one word"],
  ["at: null", "found nothing; a string is needed here: write at: /archive"],
  [
    "caching: immutable",
    "a list is needed here: write caching: [{ files: fingerprinted, policy: immutable }]",
  ],
  [
    "caching: { policy: immutable }",
    "a list is needed here: write caching: [{ files: fingerprinted, policy: immutable }]",
  ],
  [
    "caching: [immutable]",
    "a group of keys is needed here: write { files: fingerprinted, policy: immutable }",
  ],
  ["caching: [{ file: '*.js', policy: immutable }]", 'found the key "file"; write "files"'],
  ["caching: [{ policy: immutable }]", 'found nothing; write files: "*.css"'],
  [
    "caching: [{ files: '*', policy: {} }]",
    'a policy says something: write policy: revalidate, or policy: { maxAge: "10m" }',
  ],
  [
    "caching: [{ files: '*', policy: { immutable: false, private: false } }]",
    "a policy says something: write policy: revalidate",
  ],
  [
    "caching: [{ files: '*', policy: { private: true, sharedMaxAge: 3 } }]",
    "shared caches keep no private copy: leave out private or sharedMaxAge",
  ],
  ["caching: [{ files: '*', policy: forever }]", 'write "immutable" or "revalidate" or "no-store"'],
  ["caching: [{ files: '*', policy: { max-age: 3 } }]", 'found the key "max-age"; write "maxAge"'],
  ["caching: [{ files: '*', policy: { maxAge: 10 minutes } }]", 'write it as "10m", "7d" or "1y"'],
  ["withheld: '*.bak'", 'a list is needed here: write ["*.bak"]'],
  [
    "withheld: ['./drafts']",
    'a pattern is a path from the mount\'s folder, without "." and "..": write "drafts"',
  ],
  ["withheld: ['/./x']", 'write "x"'],
  ["withheld: ['drafts\\old']", 'folders are separated by slashes: write "drafts/old"'],
  ["withheld: ['!keep']", 'a pattern cannot start with "!", which would reverse it: write "keep"'],
  ["withheld: [null]", "found nothing; a string is needed here"],
  [
    "headers: { X-A: b }",
    'a list is needed here: write headers: [{ files: "*.html", set: { X-Season: spring } }]',
  ],
  ["headers: [{ files: '*', set: { X-A: 3 } }]", 'a string is needed here: write "3"'],
  [
    "headers: [{ files: '*', set: { ETag: b } }]",
    "you cannot set this field here, because the key validators sets it",
  ],
  ["codings: [br]", "a group of keys is needed here: write codings: { prebuilt: [br, gzip] }"],
  ["codings: { prebuilt: true }", "a list is needed here: write prebuilt: [br, gzip]"],
  ["codings: { prebuilt: [brotli] }", 'write "br" or "zstd" or "gzip"'],
  ["appShell: true", "found true; write appShell: { file: /index.html, except: [/api] }"],
  ["appShell: { files: /index.html }", 'found the key "files"; write "file"'],
  ["appShell: { file: /index.html, except: [api] }", 'an area\'s path starts with a slash: write "/api"'],
  [
    "protect: { framing: self }",
    'protect.framing: found "self"; write "none" or "same-origin" or "anywhere"',
  ],
  ["protect: { allow: { connectSrc: [blob:] } }", 'found the key "connectSrc"; write "connect-src"'],
  ["listing: 7", "listing: found 7; write listing: { title: Records, order: time }"],
  [
    "listing: { styleSheet: own.css }",
    'a style sheet of this site begins with a slash: write it as "/listing.css"',
  ],
  ["listing: on", 'listing: found "on"; write true'],
  ["listing: { titel: Records }", 'found the key "titel"; write "title"'],
  ["digests: 'no'", 'digests: found "no"; write false'],
  ["errorPages: /404.html", "a group of keys is needed here: write errorPages: { 404: /404.html }"],
  ["errorPages: { 404: null }", 'errorPages["404"]: found nothing; a string is needed here'],
  ["mediaTypes: { .md: 'text/markdown; charset' }", 'write it as "text/markdown"'],
  ["mediaTypes: { .md: 'text/markdown; a=b c' }", 'write it as "text/markdown"'],
  ["charset: utf-8 or so", 'a charset is a name such as "utf-8"; "" names none'],
  ["impliedExtensions: ['*.html']", 'an extension begins with its dot: write ".html"'],
  ["mediaTypes: { md: text/markdown }", 'an extension begins with its dot: write ".md"'],
  ["crossOrigin: [maps.larkholm.example]", 'write it as "https://maps.larkholm.example"'],
  ["crossOrigin: ['https://maps.larkholm.example/']", 'write it as "https://maps.larkholm.example"'],
  [
    "areas: null",
    "areas: found nothing; a group of keys is needed here: write areas: { /records: { listing: true } }",
  ],
  ["areas: { docs: {} }", 'an area\'s path starts with a slash: write "/docs"'],
  ["areas: { /docs: { folder: x } }", "it is a key of the mount: write it beside areas"],
  ["earlierReleases: ../old", 'write ["../old"]'],
  ["earlierReleases: { folder: ../old/* }", 'found the key "folder"; write "folders"'],
  ["links: true", 'links: found true; write "inside" or "none" or "anywhere"'],
])("of a mount: %s", async (line, message) => {
  const text = await refusal(`mounts:\n  - folder: public\n    ${line}\n`);
  expect(text).toContain(message);
  expect(text).toMatch(/^\S+:3:\d+: mounts\[0\]/);
  expect(text.split("\n")).toHaveLength(1);
});

test.each([
  ["mount: [{ folder: public }]", 'found the key "mount"; write "mounts"'],
  ["folder: public", "it is a key of a mount: write mounts: [{ folder: ./public }]"],
  [
    "{ mounts: [{ folder: public }], listing: true }",
    "it is a key of a mount: write mounts: [{ folder: ./public, listing: { title: Records, order: time } }]",
  ],
  ["mounts: public", "a list is needed here: write mounts: [{ folder: ./public }]"],
  ["mounts: [public]", "a group of keys is needed here: write { folder: ./public }"],
  ["mounts:\n  - folder:public", "write a space after the colon, as in folder: public"],
  ["{ mounts: [{ folder: public }], base: . }", "folders in a file are relative to the file: leave it out"],
  ["{ mounts: [{ folder: public }], moved: { a: /b } }", 'an address starts with a slash: write "/a"'],
  [
    "{ mounts: [{ folder: public }], moved: { 'https://larkholm.example/a': /b } }",
    'an address starts with a slash: write "/a"',
  ],
  ["{ mounts: [{ folder: public }], moved: { '/a*': /b } }", 'write "/a/"'],
  ["{ mounts: [{ folder: public }], moved: { /a: { target: /b } } }", 'found the key "target"; write "to"'],
  [
    "{ mounts: [{ folder: public }], moved: { /a: shop.larkholm.example } }",
    'an address of another site needs its scheme: write "https://shop.larkholm.example"',
  ],
  [
    "{ mounts: [{ folder: public }], moved: { /a: //shop.larkholm.example/b } }",
    'write "https://shop.larkholm.example/b"',
  ],
  ["{ mounts: [{ folder: public }], gone: /a }", 'a list is needed here: write ["/a"]'],
  ["just text", "a group of keys is needed here: begin with mounts: [{ folder: ./public }]"],
])("of the whole site: %s", async (text, message) => {
  const refused = await refusal(`${text}\n`);
  expect(refused).toContain(message);
  // One word about one mistake.
  expect(refused.split("\n")).toHaveLength(1);
});

test.each([
  ["mounts: [{ folder: public, at: archive, listin: true }]", ["listin", "archive"]],
  ["mounts: [{ at: archive, foldr: public }]", ["foldr", "archive"]],
  ["mounts: [{ folder: public, withheld: [1, 2] }]", ["found 1", "found 2"]],
  [
    "mounts: [{ folder: public, areas: { /docs: { listin: true }, /records: { at: /x } } }]",
    ["listin", "/records"],
  ],
  [
    "mounts: [{ folder: public, listing: { titel: a, order: colour } }, { foldr: public }]",
    ["titel", "colour", "foldr"],
  ],
])("each mistake of several has its word: %s", async (text, words) => {
  const lines = (await refusal(`${text}\n`)).split("\n");
  expect(words.filter((word) => !lines.some((line) => line.includes(word)))).toEqual([]);
  expect(lines).toHaveLength(words.length);
});

/** What is said of a configuration that cannot be used. */
async function refusal(text: string): Promise<string> {
  writeFileSync(join(tree.root, "wrong.yaml"), text);
  return loadConfigFile(join(tree.root, "wrong.yaml"))
    .then(openSite)
    .then(
      () => "used",
      (error: Error) => error.message,
    );
}

test.each([
  [
    "cases: { request: / }",
    "a list is needed here: write cases: [{ request: GET /, expect: { status: 200 } }]",
  ],
  ["cases: [{ url: / }]", 'found the key "url"; write "request"'],
  [
    "cases: [{ request: guide }]",
    'a request is a method and a path without spaces: write it as "GET /guide/"',
  ],
  ["cases: [{ request: /, expect: 200 }]", "a group of keys is needed here: write expect: { status: 200 }"],
  ["cases: [{ request: /, expect: { status: '200' } }]", "a status is a number without quotes, such as 200"],
  ["cases: [{ request: /, expect: { code: 200 } }]", 'found the key "code"; write "status"'],
  [
    "cases: [{ request: /, expect: { contentType: text/html } }]",
    'found the key "contentType"; write "mediaType"',
  ],
  ["cases: [{ request: /, expect: { coding: brotli } }]", 'this coding is called br: write "br"'],
  [
    "cases: [{ request: /, expect: { body: { includes: hello } } }]",
    'found the key "includes"; write "contains"',
  ],
  [
    "cases: [{ request: /, expect: { body: hello } }]",
    "a group of keys is needed here: write body: { contains: Larkholm }",
  ],
  [
    "cases: [{ request: /, expect: { caching: 1 year } }]",
    "write caching as: not stored, revalidated each time",
  ],
  ["cases: [{ request: /, alsoAsk: revisit }]", 'a list is needed here: write ["revisit"]'],
  ["packs: links", 'a list is needed here: write ["links"]'],
  ["variables: [a]", "a group of keys is needed here: write variables: { prefix: /explorer }"],
  ["config: null", "found nothing; a string is needed here: write config: epistyle.config.yaml"],
])("of an expectations file: %s", async (text, message) => {
  writeFileSync(join(tree.root, "wrong.yaml"), `version: 1\n${text}\n`);
  const problems = await loadExpectations(join(tree.root, "wrong.yaml")).then(
    () => [],
    (error: SiteError) => error.problems,
  );
  expect(problems).toEqual([expect.stringContaining(message)]);
});

function circle(): object {
  const own: { self?: object } = {};
  own.self = own;
  return own;
}
const inMemory = { mounts: [{ source: memorySource({ "index.html": "home" }) }] };
test.each<[string, () => unknown, string]>([
  [
    "a promise of a configuration",
    () => openSite(Promise.resolve(inMemory) as never),
    "openSite: found a promise instead of a configuration; write openSite(await …).",
  ],
  [
    "a function for a folder",
    () => openSite({ mounts: [{ folder: (() => "x") as never }] }),
    "mounts[0].folder: found a function; a string is needed here: write folder: ./public.",
  ],
  [
    "a regular expression for a pattern",
    () => openSite({ mounts: [{ folder: "/", withheld: [/x/ as never] }] }),
    "found a regular expression; a string is needed here",
  ],
  ["a number for a base", () => openSite({ base: 7, mounts: [{ folder: "x" }] } as never), "base: found 7; "],
  [
    "an object for a base",
    () => openSite({ base: {}, mounts: [{ folder: "x" }] } as never),
    "base: found {}; ",
  ],
  [
    "an object that holds itself",
    () => openSite({ mounts: [{ folder: "/", withheld: circle() as never }] }),
    "mounts[0].withheld: found an object; a list is needed here",
  ],
  [
    "a very long text",
    () => openSite({ mounts: [{ folder: "/", withheld: "x".repeat(90) as never }] }),
    `found "${"x".repeat(56)}...; a list is needed here`,
  ],
  [
    "an invalid seal",
    () => openSite(inMemory, { seal: 3 as never }),
    "openSite: found seal: 3; write true, or the path of a seal file.",
  ],
  [
    "no files",
    () => memorySource(undefined as never),
    'memorySource: found no files; write memorySource({ "index.html": "<h1>…</h1>" }).',
  ],
  [
    "a file without content",
    () => memorySource({ a: null as never }),
    'memorySource: found no content for "a"; write a string',
  ],
  [
    "a file that is a folder, too",
    () => memorySource({ a: "x", "a/b": "y" }),
    'memorySource: found "a" as a file and as a folder',
  ],
  [
    "a file with a word for its time",
    () => memorySource({ a: { content: "x", modified: "today" } as never }),
    'memorySource: found no content for "a"; write a string',
  ],
  [
    "a file with a time alone",
    () => memorySource({ a: { modified: new Date() } as never }),
    'memorySource: found no content for "a"; write a string',
  ],
  [
    "a date without a time",
    () => memorySource({ a: "x" }, { modified: new Date(Number.NaN) }),
    "memorySource: found modified, which is no valid Date",
  ],
  [
    "an invalid time",
    () => memorySource({ a: "x" }, { modified: "today" as never }),
    "memorySource: found modified, which is no valid Date",
  ],
  [
    "half a site",
    () => nodeHandler({ respond() {} } as never),
    "nodeHandler: found {} instead of a site; write nodeHandler(await openSite(config)).",
  ],
  [
    "the other half of one",
    () => nodeHandler({ file() {} } as never),
    "nodeHandler: found {} instead of a site",
  ],
  ...(
    [
      ["maxConnections", 0, "a whole number from 1 up"],
      ["maxConnections", 1.5, "a whole number from 1 up"],
      ["metrics", 3, 'a path such as "/health/metrics", or { port: 9100 }'],
      ["metrics", {}, 'a path such as "/health/metrics", or { port: 9100 }'],
      ["metrics", null, "a path such as"],
    ] as const
  ).map(([key, value, wanted]): [string, () => unknown, string] => [
    `${key}: ${JSON.stringify(value)}`,
    async () => startServer(await openSite(inMemory), { [key]: value } as never),
    `startServer: found ${key}: ${value === null ? "nothing" : JSON.stringify(value)}; write ${wanted}`,
  ]),
  [
    "a text for seconds",
    async () => nodeHandler(await openSite(inMemory), { stalledAfterSeconds: "30" as never }),
    'nodeHandler: found stalledAfterSeconds: "30"; write a number of seconds above 0.',
  ],
  [
    "no path of a file",
    async () => fileHandler(await openSite(inMemory), undefined as never),
    'The path of a file: found nothing instead of a path; write "/reports/season.pdf".',
  ],
  [
    "true for TLS",
    async () => startServer(await openSite(inMemory), { tls: true as never }),
    'startServer: found tls: true; write { cert: "cert.pem", key: "key.pem" }.',
  ],
  [
    "no configuration file",
    () => loadConfigFile(undefined as never),
    'loadConfigFile: found nothing instead of a path; write loadConfigFile("epistyle.config.yaml").',
  ],
  [
    "an address for a site",
    () => openProbe("http://localhost/" as never),
    'write probeServer("http://localhost/").',
  ],
  [
    "an invalid pack",
    async () => runPacks(await openSite(inMemory), ["linkz" as never]),
    'runPacks: found the pack "linkz"; write "links".',
  ],
  [
    "an answer without await",
    () => assertMeets(Promise.resolve() as never, { status: 200 }),
    "assertMeets: found no answer of a probe; write assertMeets(await",
  ],
  [
    "a text for a survey",
    () => surveySite("public" as never),
    'found "public"; a group of keys is needed here: begin with mounts:',
  ],
  [
    "no files for a tree",
    () => makeTemporaryTree(undefined as never),
    "makeTemporaryTree: found no files; write makeTemporaryTree(",
  ],
  [
    "no place for a seal",
    () => writeSeal(inMemory, undefined as never),
    'writeSeal: found nothing instead of a path; write writeSeal(config, "seal.jsonl").',
  ],
])("in code: %s", async (_title, call, message) => {
  await expect((async () => call())()).rejects.toThrow(message);
});
