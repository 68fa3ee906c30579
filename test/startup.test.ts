import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { pathToFileURL } from "node:url";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  fileHandler,
  findConfigFile,
  loadConfigFile,
  nodeHandler,
  startServer,
} from "../src/adapters/node.js";
import { webHandler } from "../src/adapters/web.js";
import { shorten } from "../src/config/config-file.js";
import { defineSite, memorySource, openSite, type Site, type SiteConfig } from "../src/index.js";
import { asNobody, canBeNobody, makeTree } from "./helpers.js";

let tree: Awaited<ReturnType<typeof makeTree>>;
beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "home",
    "file.txt": "file",
    "locked/index.html": "x",
    "good/epistyle.config.yaml": "mounts:\n  - folder: ../public\n",
    "json/epistyle.config.json": '{ "mounts": [{ "folder": "../public" }] }',
    "module/epistyle.config.mjs": 'export default { mounts: [{ folder: "../public" }] };',
    "defined/epistyle.config.mjs": 'export default { config: { mounts: [{ folder: "../public" }] } };',
    "folder.yaml/x": "",
    "bad/wrong.mjs": "export default { mounts: [{ folder: 7 }] };",
    "bad/null.mjs": "export default null;",
    "two/epistyle.config.yaml": "",
    "two/epistyle.config.json": "",
    "stray/epistyle.config.yml": "",
    "bad/key.yaml": "mounts:\n  - folder: ../public\n    defaultDocumnets: [a.html]\n",
    "bad/syntax.yaml": "mounts:\n  - folder: [\n",
    "bad/empty.yaml": "",
    "bad/type.yaml": "mounts:\n  - folder: ../public\n    errorPages: { 404: [a] }\n",
    "bad/base.yaml": "base: /\nmounts: [{ folder: x }]\n",
    "bad/noexport.mjs": "export const mounts = [];",
    "bad/throws.mjs": "throw new Error('no luck');",
    "bad/config.toml": "",
  });
  await tree.forbid("locked");
});
afterAll(() => {
  return tree.remove();
});

const problemsOf = (action: Promise<unknown>): Promise<string> =>
  action.then(
    () => "nothing wrong",
    (error: Error) => error.message.replaceAll(tree.root, "…"),
  );

describe("a configuration that cannot be used stops the start with a sentence", () => {
  const mount = (fields: object): unknown => ({ mounts: [{ source: memorySource({}), ...fields }] });
  const folder = (name: string, more: object = {}): unknown => ({
    base: tree.root,
    mounts: [{ folder: name, ...more }],
  });

  test.each<[string, () => unknown, string | RegExp]>([
    [
      "an unknown key",
      () => mount({ defaultDocument: ["a"] }),
      'mounts[0]: found the key "defaultDocument"; write "defaultDocuments".',
    ],
    [
      "a name in memory that no address leads to",
      () => memorySource({ "a\\b.txt": "x" }) as never,
      /^memorySource: found the path "a\\\\b.txt", which no URL can name; write one such as/,
    ],
    [
      "an unknown key like no other",
      () => ({ mounts: [{ source: memorySource({}) }], zzz: 1 }),
      /^found the key "zzz"; the keys allowed here are base, mounts, .*crossOrigin\.$/,
    ],
    [
      "an unknown key in an area",
      () => mount({ areas: { "/a": { withheld: [], whenMising: "pass" } } }),
      'mounts[0].areas["/a"]: found the key "whenMising"; write "whenMissing".',
    ],
    [
      "an unknown key in the app shell",
      () => mount({ appShell: { file: "/a.html", excpet: [] } }),
      'mounts[0].appShell: found the key "excpet"; write "except".',
    ],
    [
      "a wrong type",
      () => mount({ defaultDocuments: "index.html" }),
      'mounts[0].defaultDocuments: found "index.html"; a list is needed here: write ["index.html"].',
    ],
    [
      "a wrong type inside a list",
      () => mount({ withheld: ["*.bak", 7] }),
      'mounts[0].withheld[1]: found 7; a string is needed here: write "7".',
    ],
    ["a wrong choice", () => mount({ kind: "page" }), 'mounts[0].kind: found "page"; write "pages".'],
    [
      "a wrong choice like no other",
      () => mount({ whenMissing: true }),
      'mounts[0].whenMissing: found true; write "pass" or "answer".',
    ],
    ["no mounts", () => ({ mounts: [] }), "mounts: found []; at least one entry is needed."],
    [
      "mounts left out",
      () => ({}),
      "mounts: found nothing; a list is needed here: write mounts: [{ folder: ./public }].",
    ],
    [
      "null for a configuration",
      () => null,
      "found nothing; a group of keys is needed here: begin with mounts: [{ folder: ./public }].",
    ],
    [
      "no configuration at all",
      () => undefined,
      "found nothing; a group of keys is needed here: begin with mounts: [{ folder: ./public }].",
    ],
    [
      "a prefix without its slash",
      () => mount({ at: "docs" }),
      'mounts[0].at: found "docs"; a prefix starts with a slash: write "/docs".',
    ],
    [
      "a prefix with a dot segment",
      () => mount({ at: "/a/../b" }),
      'mounts[0].at: found "/a/../b"; a prefix has no empty or dot segments: write it as "/a/b".',
    ],
    [
      "an escaped prefix",
      () => mount({ at: "/a%20b" }),
      'mounts[0].at: found "/a%20b"; a prefix is a plain path, not escaped and without patterns: write it as "/docs".',
    ],
    [
      "an extension without its dot",
      () => mount({ impliedExtensions: ["html"] }),
      'mounts[0].impliedExtensions[0]: found "html"; an extension begins with its dot: write ".html".',
    ],
    [
      "a page of a list that is too short",
      () => mount({ listing: { pageSize: 4 } }),
      "mounts[0].listing.pageSize: found 4; write 10 or more.",
    ],
    [
      "a page of a list that is too long",
      () => mount({ listing: { pageSize: 5001 } }),
      "mounts[0].listing.pageSize: found 5001; write 5000 or less.",
    ],
    [
      "a page of a list by half rows",
      () => mount({ listing: { pageSize: 12.5 } }),
      "mounts[0].listing.pageSize: found 12.5; a whole number is needed here.",
    ],
    [
      "an invalid media type",
      () => mount({ mediaTypes: { ".brd": "bird" } }),
      'mounts[0].mediaTypes[".brd"]: found "bird"; a media type has the form type/subtype: write it as "text/markdown".',
    ],
    ...["text/x; =b", "text/x; a b=c", "text/x; a=b c", "text/x; a", "text/x; (=b"].map(
      (type): [string, () => unknown, string] => [
        `a parameter that is none: ${type}`,
        () => mount({ mediaTypes: { ".brd": type } }),
        `mounts[0].mediaTypes[".brd"]: found ${JSON.stringify(type)}; a media type has the form type/subtype: write it as "text/markdown".`,
      ],
    ),
    [
      "an invalid source",
      () => ({ mounts: [{ source: { list: 1 } }] }),
      /^mounts\[0\]\.source: found .*; a source of files: write memorySource/,
    ],
    [
      "a media type that would break the header",
      () => mount({ mediaTypes: { ".brd": "a/b\r\nX: y" } }),
      /a media type has the form type\/subtype/,
    ],
    [
      "an extension key without its dot",
      () => mount({ mediaTypes: { brd: "a/b" } }),
      'mounts[0].mediaTypes.brd: found "brd"; an extension begins with its dot: write ".brd".',
    ],
    [
      "an error page for a status that is no error",
      () => mount({ errorPages: { 200: "/a.html" } }),
      'mounts[0].errorPages["200"]: found "200"; an error page is for one of the statuses 403, 404, 410, 500, 503.',
    ],
    [
      "a document above the folder",
      () => mount({ appShell: "/../a.html" }),
      /a document lies inside the mount's folder/,
    ],
    [
      "a default document with a folder",
      () => mount({ defaultDocuments: ["a/b.html"] }),
      /a default document is a file name without a folder/,
    ],
    [
      "default documents that are no names",
      () => mount({ defaultDocuments: ["", ".", ".."] }),
      /\[0\].*a default document is a file name.*\n.*\[1\].*a file name.*\n.*\[2\].*a file name/,
    ],
    [
      "a document that is a folder's parent",
      () => mount({ errorPages: { 404: "/a/.." } }),
      /a document lies inside the mount's folder/,
    ],
    [
      "an area without its slash",
      () => mount({ areas: { records: {} } }),
      'mounts[0].areas.records: found "records"; an area\'s path starts with a slash: write "/records".',
    ],
    ["an empty pattern", () => mount({ withheld: [" "] }), /a pattern names files/],
    [
      "neither folder nor source",
      () => ({ mounts: [{ at: "/" }] }),
      'mounts[0]: found neither folder nor source; write folder: "./public".',
    ],
    [
      "both folder and source",
      () => mount({ folder: "/x" }),
      "mounts[0]: found both folder and source; a mount has one of them: leave the other out.",
    ],
    [
      "two mounts at one prefix",
      () => ({
        mounts: [
          { at: "/a", source: memorySource({}) },
          { at: "/a/", source: memorySource({}) },
        ],
      }),
      /^mounts\[1\]\.at: found "\/a", where mounts\[0\] already is;/,
    ],
    ["several problems are all told", () => ({ mounts: [{ at: "a", kind: "x" }] }), /at: .*\n.*kind: /],
    [
      "a relative folder without base",
      () => ({ mounts: [{ folder: "./public" }] }),
      'mounts[0].folder: found "./public", a relative folder, but it is unknown what it is relative to; write base: import.meta.url (in CommonJS, base: __dirname) beside mounts.',
    ],
    [
      "an origin that is no list",
      () => mount({ crossOrigin: "https://x.example" }),
      'mounts[0].crossOrigin: found "https://x.example"; a list is needed here: write ["https://x.example"].',
    ],
    [
      "a base that is a file",
      () => ({ base: join(tree.root, "file.txt"), mounts: [{ folder: "public" }] }),
      /^base: found ".*file\.txt", which is a file; write import\.meta\.url, or the folder: import\.meta\.dirname\.$/,
    ],
    [
      "a folder that is a URL",
      () => mount({ folder: new URL("file:///public/") as unknown as string }),
      "mounts[0].folder: found a URL; a path is a string: write fileURLToPath(url), from node:url.",
    ],
    [
      "a base that is no place",
      () => ({ base: "somewhere", mounts: [{ folder: "x" }] }),
      'base: found "somewhere"; write import.meta.url, or the absolute path of a folder.',
    ],
    [
      "a missing folder",
      () => folder("dist"),
      'mounts[0].folder: found "dist", which does not exist, looked for in …; create it, build it, or write the folder that holds the files.',
    ],
    [
      "a missing folder with a near name",
      () => folder("pubilc"),
      'mounts[0].folder: found "pubilc", which does not exist, looked for in …; did you mean "public"?',
    ],
    [
      "a folder that is a file",
      () => folder("file.txt"),
      'mounts[0].folder: found "file.txt", which is a file; a mount serves a folder: write "." to serve its folder.',
    ],
    [
      "a folder that cannot be read",
      () => folder("locked"),
      /^mounts\[0\]\.folder: found "locked", which this process \(uid \d+\) may not read; give it read and execute permission on locked and the folders above it\.$/,
    ],
  ])("%s", async (sentence, config, expected) => {
    const open = async (): Promise<string> => problemsOf((async () => openSite(config() as SiteConfig))());
    const needsNobody = sentence.includes("cannot be read");
    if (needsNobody && !canBeNobody) return;
    const message = await (needsNobody ? asNobody(open) : open());
    expect(message).toEqual(typeof expected === "string" ? expected : expect.stringMatching(expected));
  });
});

test.each<[string, Record<string, string>, Partial<SiteConfig["mounts"][number]>, string[]]>([
  [
    "a caching rule behind one for everything",
    {},
    {
      caching: [
        { files: "**", policy: "revalidate" },
        { files: ["*.css", "fingerprinted"], policy: "immutable" },
      ],
    },
    [
      "mounts[0].caching[1] (*.css, fingerprinted): never applies, because mounts[0].caching[0] (**) comes first and matches the same files; put it before that rule, or leave it out.",
    ],
  ],
  [
    "a folder behind its kind of file, and rules that only meet",
    {},
    {
      caching: [
        { files: "*.css", policy: "revalidate" },
        { files: "print/**/*.css", policy: "no-store" },
        { files: "print/**", policy: "no-store" },
        { files: "fingerprinted", policy: "immutable" },
      ],
    },
    [
      "mounts[0].caching[1] (print/**/*.css): never applies, because mounts[0].caching[0] (*.css) comes first and matches the same files; put it before that rule, or leave it out.",
    ],
  ],
  [
    "header fields that a later rule sets again",
    {},
    {
      headers: [
        { files: "*.css", set: { "X-Season": "spring" } },
        { files: "a/*", set: { "x-season": "autumn", "X-Hide": "1" } },
        { files: "**", set: { "X-SEASON": "summer" } },
      ],
    },
    [
      "mounts[0].headers[0] (*.css): never applies, because mounts[0].headers[2] (**) comes later and sets the same fields for the same files; put it behind that rule, or leave it out.",
    ],
  ],
  [
    "prebuilt codings that nobody built",
    { "a.css.gz": "1" },
    { codings: { prebuilt: ["br", "gzip"] } },
    [
      "mounts[0].codings.prebuilt: found br, but no file ends in .br; let the build write such files beside the others, or leave it out.",
    ],
  ],
  [
    "a default document that is nowhere",
    { "guide/home.html": "1" },
    { defaultDocuments: ["home.html", "main.html", "index.html"] },
    [
      'mounts[0].defaultDocuments: found "main.html", but no folder has a file of that name; correct it, or leave it out.',
    ],
  ],
  [
    "a front page of another name",
    { "index.html": "", "home.html": "1", "about.html": "2" },
    {},
    [
      "The mount at /: nothing answers its front page (403), because its folder has no index.html, but home.html is there; write defaultDocuments: [home.html, index.html].",
    ],
  ],
  ["pages of which none is the front page", { "index.html": "", "a.html": "1", "b.html": "2" }, {}, []],
  [
    "a front page of another name, with a listing",
    { "index.html": "", "home.html": "1" },
    { listing: true },
    [],
  ],
  [
    "built files that no rule keeps",
    { "app-5f3a91bc.js": "1", "app-0a1b2c3d.css": "2" },
    { caching: [{ files: "*.png", policy: "immutable" }] },
    [
      "The mount at /: 2 files have names made from the content, and no caching rule (among them app-0a1b2c3d.css), so browsers ask for them each time; write caching: [{ files: fingerprinted, policy: immutable }].",
    ],
  ],
  [
    "a right rule by folder",
    { "assets/app-DVXNDFMC.js": "1", "assets/app-Dct7elz_.css": "2" },
    { caching: [{ files: "assets/**", policy: "immutable" }] },
    [],
  ],
])("what can never match, or is probably not meant, is told: %s", async (_what, files, mount, warnings) => {
  const own = Object.entries({ "index.html": "front", "a.css": "", ...files }).filter(
    ([name, content]) => name !== "index.html" || content !== "",
  );
  const site = await openSite({ mounts: [{ source: memorySource(Object.fromEntries(own)), ...mount }] });
  expect(site.warnings).toEqual(warnings);
});

test.each<[string, string, string[]]>([
  [
    "addresses from the root",
    '<link rel=stylesheet href="/explorer/a.css"><script src="https://x.example/a.js"></script><img src="data:,x"><a href="./about">',
    [],
  ],
  ["a base that says where it is", '<base href="/explorer/"><script src="./a.js"></script>', []],
  [
    "one that is relative",
    '<script type=module src="./assets/a.js"></script>',
    [
      `mounts[0].appShell: index.html names "./assets/a.js" relative to each address it answers, so browsers look for them in the wrong folder at a deep link; write <base href="/explorer/"> into its head, or set the build's base to "/explorer/".`,
    ],
  ],
  [
    "several, and a base that says nothing",
    '<base target=_blank><link href=a.css rel=stylesheet><img src="../logo.svg"><script src=a.js></script>',
    [
      expect.stringMatching(
        /^mounts\[0\]\.appShell: index\.html names "a\.css" and 2 others relative to /,
      ) as unknown as string,
    ],
  ],
])("what an app shell loads must be found from a deep link: %s", async (_what, html, warnings) => {
  const site = await openSite({
    mounts: [{ at: "/explorer", kind: "app", source: memorySource({ "index.html": html }) }],
  });
  expect(site.warnings).toEqual(warnings);
  const { hints } = await site.explain({
    method: "GET",
    target: "/explorer/birds/5",
    headers: { accept: "text/html" },
  });
  expect(hints.map((hint) => `mounts[0].appShell: ${hint}`)).toEqual(warnings);
});

describe("a configuration file", () => {
  test.each([
    "good/epistyle.config.yaml",
    "json/epistyle.config.json",
    "module/epistyle.config.mjs",
    "defined/epistyle.config.mjs",
  ])("%s: its folders are relative to it", async (name) => {
    const site = await openSite(await loadConfigFile(join(tree.root, name)));
    expect((await site.respond({ method: "HEAD", target: "/", headers: {} })).kind).toBe("response");
    expect(site.mounts).toMatchObject([{ at: "/", source: "../public" }]);
  });

  test.each([
    [
      "bad/key.yaml",
      /key\.yaml:3:5: mounts\[0\]: found the key "defaultDocumnets"; write "defaultDocuments"\.$/,
    ],
    [
      "bad/type.yaml",
      /type\.yaml:3:24: mounts\[0\]\.errorPages\["404"\]: found \["a"\]; a string is needed here: write "a"\.$/,
    ],
    ["bad/syntax.yaml", /syntax\.yaml:\d+:\d+: .*\.$/],
    ["bad/empty.yaml", /empty\.yaml.*: found nothing; a group of keys is needed here: begin with /],
    [
      "bad/base.yaml",
      /base\.yaml:1:1: found the key "base"; folders in a file are relative to the file: leave it out\.$/,
    ],
    [
      "bad/noexport.mjs",
      /noexport\.mjs: the module has no default export; write export default \{ mounts: \[ … \] \}\.$/,
    ],
    ["bad/throws.mjs", /throws\.mjs(?::\d+)?: the module could not be loaded: no luck\.$/],
    ["bad/wrong.mjs", /wrong\.mjs: mounts\[0\]\.folder: found 7; a string is needed here: /],
    ["bad/null.mjs", /null\.mjs: found nothing; a group of keys is needed here: /],
    [
      "bad/config.toml",
      /config\.toml: a configuration is a \.yaml, \.json, \.js, \.mjs, \.cjs, \.ts or \.mts file; give it one of these endings\.$/,
    ],
    ["good/epistyle.config.yam", /a configuration is a/],
    [
      "good/epistyle.confg.yaml",
      /there is no such configuration file; did you mean epistyle\.config\.yaml\?$/,
    ],
    [
      "public/zzzz.yaml",
      /zzzz\.yaml: there is no such configuration file; create it, or name another with --config\.$/,
    ],
    ["folder.yaml", /folder\.yaml: this is a folder; name the configuration file inside it\.$/],
    ["good", /good: this is a folder; name the configuration file in it\.$/],
  ])("%s is refused with its place", async (name, expected) => {
    expect(await problemsOf(loadConfigFile(join(tree.root, name)))).toMatch(expected);
  });

  test("the one file of a folder is found; two are not chosen between; a near name is told", async () => {
    expect(await findConfigFile(join(tree.root, "json"))).toBe(join(tree.root, "json/epistyle.config.json"));
    expect(await findConfigFile(join(tree.root, "public"))).toBeUndefined();
    expect(await problemsOf(findConfigFile(join(tree.root, "two")))).toMatch(
      /holds epistyle\.config\.json and epistyle\.config\.yaml; keep one, or name it with --config\.$/,
    );
    expect(await problemsOf(findConfigFile(join(tree.root, "stray")))).toMatch(
      /rename it to epistyle\.config\.yaml\.$/,
    );
  });
});

test("a path is shown as somebody in this folder would write it, and whole when it lies far from it", () => {
  const from = (path: string): string => shorten(resolve(path));
  expect(["a.yaml", "sub/deep/down/a.yaml", "../a.yaml", "../b/a.yaml", "../../a.yaml"].map(from)).toEqual([
    "a.yaml",
    "sub/deep/down/a.yaml",
    "../a.yaml",
    "../b/a.yaml",
    "../../a.yaml",
  ]);
  expect(["../b/c/a.yaml", "../../b/c/a.yaml"].map(from)).toEqual([
    resolve("../b/c/a.yaml"),
    resolve("../../b/c/a.yaml"),
  ]);
});

test("an empty folder is told of; what lies in memory is looked for by nobody", async () => {
  const own = await makeTree({ "public/.keep": "" });
  expect((await openSite({ base: own.root, mounts: [{ folder: "public" }] })).warnings).toEqual([
    "mounts[0]: the folder public is empty; build it, or put files into it.",
  ]);
  await own.remove();
  for (const files of [{}, { id_rsa: "" }])
    expect(
      (
        await openSite({
          refuse: "severe",
          mounts: [{ source: memorySource(files as Record<string, string>) }],
        })
      ).warnings,
    ).toEqual([]);
});

test("a folder in code is relative to the module, whatever the working directory", async () => {
  const base = pathToFileURL(join(tree.root, "server.js"));
  for (const one of [base, base.href, tree.root]) {
    expect((await openSite({ base: one, mounts: [{ folder: "./public" }] })).mounts[0]?.source).toBe(
      "./public",
    );
  }
});

test.each<[string, (site: Site) => unknown, string | RegExp]>([
  [
    "a promise",
    () => nodeHandler(openSite({ mounts: [{ source: memorySource({}) }] }) as never),
    "nodeHandler: found a promise instead of a site; write nodeHandler(await openSite(config)).",
  ],
  [
    "a configuration",
    () => nodeHandler({ mounts: [{ folder: "x" }] } as never),
    "nodeHandler: found a configuration instead of a site; write nodeHandler(await openSite(config)).",
  ],
  [
    "a definition",
    () => webHandler(defineSite({ mounts: [{ folder: "x" }] }) as never),
    "webHandler: found a configuration instead of a site; write webHandler(await openSite(config)).",
  ],
  [
    "nothing",
    () => nodeHandler(undefined as never),
    "nodeHandler: found nothing instead of a site; write nodeHandler(await openSite(config)).",
  ],
  [
    "a folder",
    () => webHandler("./x" as never),
    'webHandler: found "./x" instead of a site; write webHandler(await openSite({ base: import.meta.url, mounts: [{ folder: "./x" }] })).',
  ],
  [
    "a number",
    () => fileHandler(7 as never, "/a"),
    "fileHandler: found 7 instead of a site; write fileHandler(await openSite(config)).",
  ],
  [
    "a folder for a server",
    () => startServer("./x" as never),
    /^startServer: found ".\/x" instead of a site;/,
  ],
  [
    "a misspelt option",
    (site) => nodeHandler(site, { onRespond: () => {} } as never),
    'nodeHandler: found the option "onRespond"; write "onResponse".',
  ],
  [
    "an option like no other",
    (site) => nodeHandler(site, { root: "x" } as never),
    'nodeHandler: found the option "root"; the options are log, onResponse, proxies, proxyField, requestIds, serverTiming, stalledAfterSeconds.',
  ],
  [
    "a function for options",
    (site) => nodeHandler(site, null as never),
    "nodeHandler: found nothing instead of options; write { log: … }.",
  ],
  [
    "a misspelt option of a route",
    (site) => fileHandler(site, "/a.txt", { saveas: true } as never),
    'fileHandler: found the option "saveas"; write "saveAs".',
  ],
  [
    "a misspelt option of a server",
    (site) => startServer(site, { prot: 80 } as never),
    'startServer: found the option "prot"; write "port".',
  ],
  [
    "a misspelt option of a Fetch handler",
    (site) => webHandler(site, { maypass: false } as never),
    'webHandler: found the option "maypass"; write "mayPass".',
  ],
  [
    "no time at all",
    (site) => nodeHandler(site, { stalledAfterSeconds: 0 }),
    /^nodeHandler: found stalledAfterSeconds: 0; .*a number of seconds above 0/,
  ],
  [
    "a port as a text",
    (site) => startServer(site, { port: "8080" as never }),
    'port: found "8080", a text; write the number 8080.',
  ],
  [
    "an invalid port",
    (site) => startServer(site, { port: "http" as never }),
    'port: found "http"; a port is a whole number from 0 to 65535; 0 picks a free one.',
  ],
])("given in place of a site or an option, it is told at once: %s", async (_what, call, message) => {
  const site = await openSite({ mounts: [{ source: memorySource({ "a.txt": "a" }) }] });
  await expect((async () => call(site))()).rejects.toMatchObject({
    message: typeof message === "string" ? message : expect.stringMatching(message),
  });
});

test.each<[string, string]>([
  ["a/x.txt", 'found "a/x.txt"; it starts at the site\'s root: write "/a/x.txt".'],
  ["/a/", 'found "/a/"; write the address of one file, not escaped, such as "/reports/season.pdf".'],
  ...["/a//x.txt", "/a/../x.txt", "/a/.", "/a/..", "/a\\x.txt", "/a\0"].map((path): [string, string] => [
    path,
    "; write the address of one file, not escaped",
  ]),
  ["/c/x.txt", 'found "/c/x.txt", which is not under any mount; the mounts are at /a, /b.'],
])("a route for %j stops with what to write", async (path, message) => {
  const site = await openSite({
    mounts: ["/a", "/b"].map((at) => ({ at, source: memorySource({ "x..txt": "", "x.txt": "" }) })),
  });
  expect(() => fileHandler(site, path)).toThrow(message);
  for (const right of ["/a/x.txt", "/a/x..txt"]) expect(() => fileHandler(site, right)).not.toThrow();
});

test.each<[string, string | undefined]>([
  ["/a.txt", undefined],
  ["/archive/b.txt", undefined],
  ["/a.text", 'The path of a file: found "/a.text", and memory has no such file; did you mean "/a.txt"?'],
  [
    "/archive/none.pdf",
    'The path of a file: found "/archive/none.pdf", and memory has no such file; build it, or write the path of an existing file.',
  ],
  ["/sub", 'The path of a file: found "/sub", which is a folder of memory; write the address of one file.'],
  ["/.env", /^The path of a file: found "\/\.env", which is withheld \(/ as never],
])("a route that names %s: %s", async (path, warning) => {
  const site = await openSite({
    mounts: [
      { source: memorySource({ "a.txt": "a", "sub/x.txt": "x", ".env": "e" }) },
      { at: "/archive", source: memorySource({ "b.txt": "b" }) },
    ],
  });
  const emitted: string[] = [];
  const listen = (one: Error): void => void (one.name === "SiteWarning" && emitted.push(one.message));
  process.on("warning", listen);
  fileHandler(site, path);
  fileHandler(site, path, { saveAs: true });
  await wait(20);
  process.off("warning", listen);
  expect([site.warnings, emitted]).toEqual(
    Array(2).fill(
      warning === undefined ? [] : [typeof warning === "string" ? warning : expect.stringMatching(warning)],
    ),
  );
});
