import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Diagnosis } from "../src/core/source.js";
import { memorySource, type Site } from "../src/index.js";
import { describeAnswer } from "../src/inspection/explain/outcome.js";
import { openSite } from "./counting-source.js";
import { asNobody, canBeNobody, makeTree } from "./helpers.js";

let tree: Awaited<ReturnType<typeof makeTree>>;
let site: Site;
beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "home",
    "public/about.html": "about",
    "public/Photo.JPG": "photo",
    "public/notes/home.html": "notes",
    "public/notes/zebra.html": "notes",
    "public/pictures/a.png": Buffer.from("89504e470d0a1a0a", "hex"),
    "public/map.svg": "map",
    "public/empty-one/.keep": "",
    "public/locked.txt": "locked",
    "public/vault/a.txt": "vault",
    "public/old.bak": "bak",
    "public/archive/hidden.txt": "hidden",
    "public/out.txt": { link: "../outside.txt" },
    "outside.txt": "outside",
    "project/package.json": "{}",
    "project/dist/index.html": "built",
    "unbuilt/package.json": "{}",
    "unbuilt/src/main.js": "",
    "app/index.html": "shell",
    "archive/only-here.csv": "csv",
  });
  await tree.forbid("public/locked.txt", "public/vault");
  site = await openSite({
    base: tree.root,
    mounts: [
      { at: "/", folder: "public", impliedExtensions: [], withheld: ["*.bak"] },
      { at: "/archive", folder: "archive" },
      { at: "/project", folder: "project" },
      { at: "/unbuilt", folder: "unbuilt" },
      { at: "/app", folder: "app", kind: "app" },
    ],
  });
});
afterAll(() => tree.remove());

async function hintsFor(target: string, headers: Record<string, string> = {}): Promise<string[]> {
  const explanation = await site.explain({ method: "GET", target, headers });
  return [...explanation.hints];
}

describe("an error's likeliest cause, and the fix", () => {
  test.each([
    [
      "the default document has another name",
      "/notes/",
      "The directory has home.html: write defaultDocuments: [home.html] for it, rename the file to index.html, or ask for /notes/home.html.",
    ],
    [
      "a project, built beside its sources",
      "/project/",
      "This is a project (it has package.json), not its build; dist looks built: serve that folder.",
    ],
    [
      "a project that was not built",
      "/unbuilt/",
      "This is a project (it has package.json) that was not built; run its build, and serve the output folder.",
    ],
    [
      "a directory of files",
      "/pictures/",
      "Write listing: true for the mount or an area to list its files, put a document named index.html into it, or ask for a file by name.",
    ],
    [
      "a case difference",
      "/photo.jpg",
      "The name on disk is Photo.JPG, and case matters: ask for /Photo.JPG.",
    ],
    [
      "a case difference in a folder",
      "/Pictures/a.png",
      "The name on disk is pictures, and case matters: ask for /pictures/a.png.",
    ],
    ["below an extension left out", "/about/x", /^There is no about in the mount's folder, which has /],
    [
      "an extension left out",
      "/about",
      'There is about.html: ask for /about.html, or add ".html" to impliedExtensions.',
    ],
    [
      "a misspelt name",
      "/pictures/b.png",
      "There is a.png in the same directory: did you mean /pictures/a.png?",
    ],
    ["a slash behind a file", "/about.html/", "Leave the slash out: /about.html."],
    [
      "a file of another mount",
      "/only-here.csv",
      "The mount at /archive has it: ask for /archive/only-here.csv.",
    ],
    [
      "a file that another mount hides",
      "/archive/hidden.txt",
      "public has archive/hidden.txt, but the mount at /archive hides it: move the file, or the mount.",
    ],
    [
      "the folder's own name in the address",
      "/public/map.svg",
      "The folder's own name is not part of an address: ask for /map.svg.",
    ],
    [
      "nothing like it",
      "/zzzzzzzz",
      /^There is no zzzzzzzz in the mount's folder, which has Photo\.JPG, about\.html, .* more\.$/,
    ],
    [
      "withheld by a pattern",
      "/old.bak",
      "If the file is for visitors, remove the pattern, or make it narrower.",
    ],
    [
      "withheld for its dot",
      "/empty-one/.keep",
      "Names with a leading dot are never served; if the file is for visitors, give it a name without the dot.",
    ],
    [
      "a link that leads out",
      "/out.txt",
      "Copy the file into the folder, or serve its folder with another mount; links: anywhere follows every link.",
    ],
    [
      "the shell, and no navigation",
      "/app/deep",
      /ask with that field to see its answer\.\nThere is no deep /,
    ],
    [
      "the shell, and a dot",
      "/app/users/jane.doe",
      /^If this is a route of the application, say so: appShell: \{ file: "\/index\.html", routes: \["\/users\/\*"\] \}\.\n/,
    ],
    ["two slashes", "/notes//home.html", /^Write one slash between folders;/],
    ["an encoded slash", "/a%2fb", /^A file name cannot contain a slash\./],
    ["not a path", "about", "A request target is a path: start it with a slash."],
    ["a bad escape", "/%zz", "Percent escapes must be UTF-8; write %25 for a percent sign."],
    [
      "a dot segment",
      "/a/../b",
      "Clients resolve dot segments before they send a request; write the path without them.",
    ],
    ["a backslash", "/a%5cb", "Write slashes between folders; a file name here cannot contain a backslash."],
    ["a NUL, of which nothing helpful can be said", "/a%00", /^$/],
  ])("%s", async (_sentence, target, expected) => {
    const hints = (await hintsFor(target)).join("\n");
    if (typeof expected === "string") expect(hints.split("\n")[0]).toBe(expected);
    else expect(hints).toMatch(expected);
  });

  test.runIf(canBeNobody)("permissions: of the file, and of the folder above it", async () => {
    await asNobody(async () => {
      expect(await hintsFor("/locked.txt")).toEqual([
        expect.stringMatching(
          /^locked\.txt: no read permission for this process \(uid \d+\); mode 000, owner \d+:\d+\. In the mount's folder, chmod a\+r 'locked\.txt' gives every user access/,
        ),
      ]);
      expect(await hintsFor("/vault/a.txt")).toEqual([
        expect.stringMatching(
          /^vault: no execute permission for this process \(uid \d+\); mode 000, .* chmod a\+x 'vault' gives every user access/,
        ),
      ]);
    });
  });

  test.each<[string | undefined, Required<Diagnosis>["denied"] | undefined, string]>([
    [
      "a.txt: no read permission for this process (uid 1); mode 600, owner 0:0",
      { path: "a.txt", right: "read" },
      "a.txt: no read permission for this process (uid 1); mode 600, owner 0:0. In the mount's folder, chmod a+r 'a.txt' gives every user access; or run the server as a user who may.",
    ],
    [
      "sub: no execute permission for this process (uid 1); mode 700, owner 0:0",
      { path: "sub", right: "execute" },
      "sub: no execute permission for this process (uid 1); mode 700, owner 0:0. In the mount's folder, chmod a+x 'sub' gives every user access; or run the server as a user who may.",
    ],
    [
      "the folder itself: no execute permission for this process (uid 1)",
      { path: "", right: "execute" },
      "the folder itself: no execute permission for this process (uid 1). In the mount's folder, chmod a+x '.' gives every user access; or run the server as a user who may.",
    ],
    [
      undefined,
      undefined,
      "In the mount's folder, chmod a+r 'sub/a.txt' gives every user access; or run the server as a user who may.",
    ],
  ])("a permission in the way: %s", async (text, denied, expected) => {
    const source = memorySource({ "sub/a.txt": "" });
    const closed = await openSite({
      mounts: [
        {
          source: {
            ...source,
            open: () => ({ kind: "forbidden", cause: "EACCES" }),
            diagnose: async () => (text === undefined ? undefined : { text, denied }),
          },
        },
      ],
    });
    expect((await closed.explain({ method: "GET", target: "/sub/a.txt", headers: {} })).hints).toEqual([
      expected,
    ]);
  });

  test("what no mount answers, and what the host says that it stripped", async () => {
    const own = await openSite({
      mounts: ["/a", "/b/c"].map((at) => ({ at, source: memorySource({ "x.txt": "" }) })),
    });
    const told = async (target: string, more: object = {}) =>
      (await own.explain({ method: "GET", target, headers: {}, ...more })).hints;
    expect([await told("/d"), await told("/a/x.txt", { strippedPrefix: "/other" })]).toEqual([
      ['The mounts are at /a, /b/c; ask for a path under one of them, or add a mount at "/".'],
      [
        "The host says that it stripped /other; if it changes the path in another way, it must not change originalUrl.",
      ],
    ]);
  });

  test("a file of another mount is told of where it answers, and not where it is withheld", async () => {
    const own = await openSite({
      mounts: [
        {
          at: "/a",
          source: memorySource({ "bb/x.txt": "", "y.txt": "", "key.txt": "" }),
          withheld: ["key.txt"],
        },
        { at: "/bb", source: memorySource({ "b.html": "", "dist/index.html": "" }) },
      ],
    });
    const told = async (target: string) =>
      (await own.explain({ method: "GET", target, headers: {} })).hints.filter(
        (hint) => !hint.startsWith("There is no "),
      );
    expect([
      await told("/bb/x.txt"),
      await told("/bb/y.txt"),
      await told("/bb/key.txt"),
      await told("/bb/dist/z/"),
    ]).toEqual([[], ["The mount at /a has it: ask for /a/y.txt."], [], []]);
    expect(await told("/bb/")).toEqual([expect.stringMatching(/^The directory has b\.html: /)]);
    const built = await openSite({ mounts: [{ source: memorySource({ "dist/index.html": "" }) }] });
    expect((await built.explain({ method: "GET", target: "/", headers: {} })).hints).toEqual([
      expect.stringMatching(/^Write listing: true /),
    ]);
  });

  test("what is left out of listings and looks private is told; what does not is not", async () => {
    const own = await openSite({
      mounts: [
        {
          at: "/x",
          source: memorySource({ "a.key": "", "b.txt": "", "c.bak": "", key: "" }),
          notListed: ["a.*", "b.*", "key"],
        },
      ],
    });
    const told = await Promise.all(
      ["/x/a.key", "/x/b.txt", "/x/c.bak", "/x/key"].map(
        async (target) => (await own.explain({ method: "GET", target, headers: {} })).hints.length,
      ),
    );
    expect(told).toEqual([1, 0, 0, 0]);
  });

  test.each<[string, string, Record<string, string>, string[]]>([
    [
      "a picture under another one's name",
      "/photo.jpg",
      {},
      [
        "The content of photo.jpg is image/png, but its name says image/jpeg: give the file the correct extension, or add its type to mediaTypes.",
      ],
    ],
    [
      "a picture that is a page",
      "/page.png",
      {},
      [
        "The content of page.png is text/html, but its name says image/png: give the file the correct extension, or add its type to mediaTypes.",
      ],
    ],
    ["sound in a container of film", "/call.mp3", {}, []],
    ["a picture of its kind", "/plate.png", {}, []],
    ["text", "/a.txt", {}, []],
    ["data that begins like a page", "/a.json", {}, []],
    [
      "an origin that may not read",
      "/a.txt",
      { origin: "https://x.example" },
      [
        'A page of https://x.example may not read it, because crossOrigin is off; write crossOrigin: ["https://x.example"] if it may.',
      ],
    ],
    [
      "an origin among others",
      "/open/a.txt",
      { origin: "https://x.example" },
      [
        'A page of https://x.example may not read it, because crossOrigin of mounts[1] names https://larkholm.example; write crossOrigin: ["https://x.example"] if it may.',
      ],
    ],
    ["an origin that may", "/open/a.txt", { origin: "https://larkholm.example" }, []],
    ["the site's own", "/a.txt", { origin: "https://larkholm.example", host: "larkholm.example" }, []],
    ["what is passed on needs nothing here", "/nope", { pass: "yes" }, []],
  ])(
    "of an answer that is no error, what is probably not meant: %s",
    async (_what, target, { pass, ...headers }, expected) => {
      const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
      const tree = {
        "photo.jpg": png,
        "plate.png": png,
        "page.png": "<!doctype html><p>x",
        "call.mp3": "ID3",
        "a.txt": "a",
        "a.json": "<!doctype html>",
      };
      const own = await openSite({
        mounts: [
          { source: memorySource(tree) },
          { at: "/open", source: memorySource(tree), crossOrigin: ["https://larkholm.example"] },
        ],
      });
      expect((await own.explain({ method: "GET", target, headers, mayPass: pass === "yes" })).hints).toEqual(
        expected,
      );
    },
  );

  test.each<[string, string, RegExp]>([
    [
      "a name that differs in case, and has an extension",
      "/ABOUT",
      /^There is about\.html, and case matters: ask for \/ABOUT|^There is about\.html, and case matters: ask for \/about\.html\.$/,
    ],
    [
      "a link that leads nowhere",
      "/lost",
      /^lost is a symbolic link to nowhere\.txt, which does not exist\. Let the link lead to an existing file, or make that file\.$/,
    ],
    [
      "a project whose page has another name than the rules say",
      "/with-page/",
      /^The directory has index\.html: write defaultDocuments: \[index\.html\] for it, or ask for \/with-page\/index\.html\.$/,
    ],
  ])("%s", async (_what, target, hint) => {
    const tree = await makeTree({
      "about.html": "a",
      lost: { link: "nowhere.txt" },
      "with-page/index.html": "i",
      "with-page/package.json": "{}",
    });
    const own = await openSite({
      mounts: [{ folder: tree.root, defaultDocuments: ["home.html"], impliedExtensions: [] }],
    });
    expect((await own.explain({ method: "GET", target, headers: {} })).hints[0]).toMatch(hint);
    await tree.remove();
  });

  test("an answer that is no error needs no hint", async () => {
    for (const target of ["/", "/notes/home.html", "/pictures/a.png"])
      expect(await hintsFor(target)).toEqual([]);
  });
});

test.each<[names: string, target: string, hint: string]>([
  [
    "package.json dist/index.html",
    "/",
    "This is a project (it has package.json), not its build; dist looks built: serve that folder.",
  ],
  [
    "Cargo.toml build/x out/index.html",
    "/",
    "This is a project (it has Cargo.toml), not its build; out looks built: serve that folder.",
  ],
  [
    "sub/package.json sub/dist/index.html",
    "/sub/",
    "This is a project (it has package.json), not its build; sub/dist looks built: serve that folder.",
  ],
  [
    "package.json dist/x",
    "/",
    "This is a project (it has package.json) that was not built; run its build, and serve the output folder.",
  ],
  [
    "b.html home.xhtml a.htm",
    "/",
    "The directory has home.xhtml: write defaultDocuments: [home.xhtml] for it, rename the file to index.html, or ask for /home.xhtml.",
  ],
  [
    "sub/b.HTML sub/a.htm",
    "/sub/",
    "The directory has a.htm: write defaultDocuments: [a.htm] for it, rename the file to index.html, or ask for /sub/a.htm.",
  ],
  [
    "x.txt html.txt",
    "/",
    "Write listing: true for the mount or an area to list its files, put a document named index.html into it, or ask for a file by name.",
  ],
  ["Sub/x.txt", "/sub/x.txt", "The name on disk is Sub, and case matters: ask for /Sub/x.txt."],
  ["about.md", "/about", 'There is about.md: ask for /about.md, or add ".md" to impliedExtensions.'],
  ["About.md", "/about", "There is About.md, and case matters: ask for /About.md."],
  ["about.md", "/about/x", "There is no about in the mount's folder, which has about.md."],
  ["visit.txt", "/vist.txt", "There is visit.txt in the same directory: did you mean /visit.txt?"],
  ["a/visit.txt", "/a/vist.txt/x", "There is visit.txt in the same directory: did you mean /a/visit.txt/x?"],
  [".vist.txt", "/visit.txt", "There is no visit.txt in the mount's folder, which is empty."],
  [".a b.", "/xyz", "There is no xyz in the mount's folder, which has b.."],
  ["a b c d e f", "/xyz", "There is no xyz in the mount's folder, which has a, b, c, d, e, f."],
  ["a b c d e f g", "/xyz", "There is no xyz in the mount's folder, which has a, b, c, d, e and 2 more."],
  ["a/b c", "/a/xyz", "There is no xyz in a, which has b."],
  ["x.txt", "/other/x.txt", "There is no other in the mount's folder, which has x.txt."],
  ["x.txt", "/memory/x.txt", "The folder's own name is not part of an address: ask for /x.txt."],
])("with %s, where %s is missing: %s", async (names, target, hint) => {
  const own = await openSite({
    mounts: [
      {
        source: memorySource(Object.fromEntries(names.split(" ").map((name) => [name, ""]))),
        impliedExtensions: [],
      },
    ],
  });
  expect((await own.explain({ method: "GET", target, headers: {} })).hints[0]).toBe(hint);
});

test("a file that another mount hides is told of", async () => {
  const own = await openSite({
    mounts: [
      { source: memorySource({ "docs/a.txt": "" }) },
      { at: "/docs", source: memorySource({ "b.txt": "" }) },
    ],
  });
  expect((await own.explain({ method: "GET", target: "/docs/a.txt", headers: {} })).hints).toEqual([
    "memory has docs/a.txt, but the mount at /docs hides it: move the file, or the mount.",
  ]);
});

test.each<[string, string, string, Record<string, string>]>([
  ["a file", "/docs/a", "memory/a.html", {}],
  ["a missing slash", "/docs/sub", "a redirect to ./sub/", {}],
  ["a listing", "/docs/sub/", "a list of the directory's files", {}],
  ["what is answered by no file", "/docs/a.html", "memory/a.html", { "if-none-match": "*" }],
  ["an error page of the mount's own", "/docs/none", "no file; memory/404.html is sent for the error", {}],
  ["an error page that is not there", "/other/none", "no file; the built-in page is sent for the error", {}],
  ["the built-in page", "/nowhere", "no file; the built-in page is sent for the error", {}],
  ["an error page of the site's root", "/none", "no file; memory/e.html is sent for the error", {}],
  ["a method that is answered without a file", "/docs/", "no file", { options: "yes" }],
  ["what is passed on", "/pass/none", "the application behind the site", {}],
])("what answers, in words: %s", async (_title, target, words, { options, ...headers }) => {
  const tree = { "a.html": "", "404.html": "", "sub/x.txt": "" };
  const own = await openSite({
    mounts: [
      ...(target === "/nowhere"
        ? []
        : [{ source: memorySource({ "e.html": "" }), errorPages: { 404: "/e.html" } }]),
      { at: "/docs", source: memorySource(tree), errorPages: { 404: "/404.html" }, listing: true },
      { at: "/other", source: memorySource({}), errorPages: { 404: "/404.html" } },
      { at: "/pass", source: memorySource({}), whenMissing: "pass" },
    ],
  });
  const explained = await own.explain({
    method: options === undefined ? "GET" : "OPTIONS",
    target,
    headers,
    mayPass: target.startsWith("/pass"),
  });
  expect(describeAnswer(explained.answer, explained.trace)).toBe(words);
});

test("an explanation is plain data: each step, each rule with its origin, each field with its cause", async () => {
  const own = await openSite({
    charset: "utf-8",
    mounts: [
      {
        source: memorySource({ "index.html": "shell", "records/notes.brd": "b" }),
        kind: "app",
        areas: { "/records": { mediaTypes: { ".brd": "text/x-bird" }, appShell: false } },
      },
    ],
  });
  const { answer, trace, why } = await own.explain({
    method: "GET",
    target: "/records/notes.brd?x",
    headers: {},
  });
  expect(JSON.parse(JSON.stringify(trace))).toEqual(trace);
  // The third time these run, what is in memory has no time that counts.
  const stages = trace.map(({ stage }) => stage).filter((stage) => stage !== "undated");
  expect(stages.filter((stage, i, all) => stage !== all[i - 1])).toEqual([
    "target",
    "mount",
    "rules",
    "candidate",
    "representation",
    "field",
  ]);
  expect(trace).toContainEqual({ stage: "mount", at: "/", source: "memory", path: "records/notes.brd" });
  const rules = trace.find((step) => step.stage === "rules")!;
  expect(rules).toMatchObject({ area: "records" });
  expect(
    rules.stage === "rules" &&
      Object.fromEntries(rules.rules.map(({ name, value, origin }) => [name, `${value} < ${origin}`])),
  ).toMatchObject({
    appShell: 'none < mounts[0].areas["/records"]',
    mediaTypes: '.brd: text/x-bird < mounts[0].areas["/records"]',
    charset: "utf-8 < site",
    defaultDocuments: "index.html < default",
    impliedExtensions: "none < default",
  });
  const fields = trace.filter((step) => step.stage === "field");
  expect(answer.kind === "response" && answer.fields.flat).toEqual(
    fields.flatMap(({ name, value }) => [name, value]),
  );
  expect(fields[0]).toMatchObject({
    value: "text/x-bird; charset=utf-8",
    because: '.brd in mediaTypes of mounts[0].areas["/records"]; charset: site',
  });
  expect(why).toBe("the file of that name");
});

test.each<[string, string, Record<string, string>, string, string]>([
  [
    "a longer extension of the table",
    "/types.d.ts",
    {},
    "Content-Type",
    ".d.ts in the built-in table; charset: default",
  ],
  ["the longest known one", "/all.tar.gz", {}, "Content-Type", ".tar.gz in the built-in table"],
  [
    "an added one that says what the table says",
    "/a.css",
    {},
    "Content-Type",
    ".css in mediaTypes of mounts[0]; charset: default",
  ],
  [
    "a system's types file is not credited for the table's",
    "/a.png",
    {},
    "Content-Type",
    ".png in the built-in table",
  ],
  [
    "content, where the name says nothing",
    "/unnamed",
    {},
    "Content-Type",
    "its first bytes, because its name says nothing; charset: default",
  ],
  ["a caching rule", "/a.css", {}, "Cache-Control", "mounts[0].caching[0] (*.css)"],
  ["the last header rule that matches", "/a.css", {}, "X-About", "mounts[0].headers[1] (a.*)"],
  [
    "no rule that matches",
    "/a.png",
    {},
    "Cache-Control",
    "no caching rule matches: a copy is revalidated each time",
  ],
  [
    "an app shell",
    "/deep/link",
    { "sec-fetch-mode": "navigate" },
    "Cache-Control",
    "an app shell answers many addresses: a copy is revalidated each time",
  ],
  [
    "what an app shell depends on",
    "/deep/link",
    { "sec-fetch-mode": "navigate", "accept-encoding": "br" },
    "Vary",
    "the fields that the answer depends on",
  ],
  ["a part", "/a.png", { range: "bytes=0-1" }, "Content-Range", "the range that Range asks for"],
])("a field says what decided it: %s", async (_sentence, target, headers, field, because) => {
  const site = await openSite({
    mounts: [
      {
        source: memorySource({
          "types.d.ts": "",
          "all.tar.gz": "",
          "a.css": "p{}",
          "a.png": "png",
          unnamed: "text",
          "index.html": "shell ".repeat(400),
        }),
        mediaTypes: { ".css": "text/css" },
        appShell: "/index.html",
        caching: [
          { files: "*.css", policy: "no-store" },
          { files: "*.html", policy: { maxAge: "1d" } },
        ],
        headers: [
          { files: "*.css", set: { "x-about": "styles" } },
          { files: "a.*", set: { "X-About": "a" } },
        ],
      },
    ],
  });
  const { trace } = await site.explain({ method: "GET", target, headers });
  expect(trace.filter((step) => step.stage === "field").find(({ name }) => name === field)?.because).toBe(
    because,
  );
});

describe("start-up warns of rules that come to nothing", () => {
  const source = memorySource({
    "index.html": "x",
    "docs/a.html": "x",
    "file.txt": "x",
    "drafts/a.html": "x",
    "records/a.html": "x",
    "keep.bak": "x",
  });
  const warningsOf = async (mount: object, ...others: object[]): Promise<readonly string[]> =>
    (await openSite({ mounts: [{ source, ...mount }, ...others.map((other) => ({ source, ...other }))] }))
      .warnings;

  test.each<[string, object, object[], string[]]>([
    ["nothing to say", { errorPages: { 404: "/index.html" }, areas: { "/docs": {} } }, [], []],
    [
      "an area whose folder is not there",
      { areas: { "/nope": {} } },
      [],
      ['mounts[0].areas["/nope"]: nope does not exist in memory; an area is a folder there.'],
    ],
    [
      "an area that is a file",
      { areas: { "/file.txt": {} } },
      [],
      ['mounts[0].areas["/file.txt"]: file.txt is a file in memory; an area is a folder there.'],
    ],
    [
      "an area that is withheld",
      { withheld: ["drafts"], areas: { "/drafts": {} } },
      [],
      [
        'mounts[0].areas["/drafts"]: never matches, because it is withheld (the pattern "drafts" of mounts[0]); leave the area or the pattern out.',
      ],
    ],
    [
      "an area behind another mount",
      { areas: { "/docs/deep": {} } },
      [{ at: "/docs" }],
      [
        'mounts[0].areas["/docs/deep"]: never matches, because the mount at /docs answers everything below it; write the rules there.',
        "mounts[0]: docs in memory cannot be reached, because the mount at /docs answers there.",
      ],
    ],
    [
      "an app shell that is not there",
      { appShell: "/app.html" },
      [],
      ["mounts[0].appShell: there is no app.html in memory; until there is, deep links are not found."],
    ],
    [
      "an application without its document",
      { kind: "app", source: memorySource({}) },
      [],
      ["mounts[0].appShell: there is no index.html in memory; until there is, deep links are not found."],
    ],
    [
      "an error page that is not there",
      { areas: { "/docs": { errorPages: { 404: "/404.html" } } } },
      [],
      [
        'mounts[0].areas["/docs"].errorPages[404]: there is no 404.html in memory; until there is, the built-in page is sent.',
      ],
    ],
    [
      "an exception that lies elsewhere",
      { areas: { "/docs": { appShell: { file: "/index.html", except: ["/api", "/docs/x"] } } } },
      [],
      [
        'mounts[0].areas["/docs"].appShell.except: found "/api", which never matches, because paths here begin with /docs; write "/docs/api".',
      ],
    ],
    [
      "a default document that is withheld",
      { defaultDocuments: ["keep.bak", "index.html"], withheld: ["*.bak"] },
      [],
      [
        'mounts[0].defaultDocuments: found "keep.bak", which never answers, because it is withheld (the pattern "*.bak" of mounts[0]); leave it out.',
      ],
    ],
  ])("%s", async (_sentence, mount, others, expected) => {
    expect(await warningsOf(mount, ...others)).toEqual(expected);
  });

  test("a document that is named and withheld stops the start", async () => {
    await expect(warningsOf({ errorPages: { 404: "/keep.bak" }, withheld: ["*.bak"] })).rejects.toThrow(
      'mounts[0].errorPages[404]: found "/keep.bak", which is withheld (the pattern "*.bak" of mounts[0]) and never sent; name another document.',
    );
  });
});
