import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import {
  chmodSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { request as askRaw } from "node:http";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { loadConfigFile, startServer } from "../src/adapters/node.js";
import { defineSite, memorySource, openSite, type SiteConfig } from "../src/index.js";
import { findChanges } from "../src/lab/changes/find-changes.js";
import { openSubject } from "../src/lab/engine/open-subject.js";
import { viewFolder } from "../src/lab/engine/tree.js";
import { attachLab } from "../src/lab/index.js";
import type { Beam, CheckOutcome, Found, LabInfo, Preview, TreeFolder } from "../src/lab/shapes.js";
import { makeTree, type Tree } from "./helpers.js";

const CLI = resolve("dist/cli/bin.js");
const CONFIG =
  "mounts:\n  - folder: public\n    errorPages: { 404: /404.html }\n    withheld: ['*.bak']\n    notListed: ['*.map']\n    caching:\n      - { files: '*.css', policy: { maxAge: 1h } }\n    areas:\n      /records: { listing: true }\nmoved:\n  /old/: /guide/\n";
let tree: Tree;
let child: ChildProcessWithoutNullStreams;
let lab = "";
let site = "";

beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "<title>Larkholm</title><script>go()</script>",
    "public/404.html": "none",
    "public/guide/index.html": "guide",
    "public/style.css": "body{}",
    "public/view.bak": "old",
    "public/app.js.map": "{}",
    "public/records/2026.csv": "ring\n",
    "public/pixel.png": "\x89PNG",
    "public/page": "",
    "public/page.html": "page",
    "epistyle.config.yaml": CONFIG,
    "expectations.yaml":
      "version: 1\ncases:\n  - request: GET /\n    expect: { status: 200, mediaType: text/plain }\n",
  });
  child = spawn(process.execPath, [CLI, "lab", "--edit"], {
    cwd: tree.root,
    env: { ...process.env, NO_COLOR: "1" },
  });
  let out = "";
  child.stdout.on("data", (chunk) => (out += chunk));
  for (let i = 0; i < 200 && !/The lab +\S+/.test(out); i++) await wait(50);
  lab = /The lab +(\S+)/.exec(out)![1]!;
  site = /The site +(\S+)/.exec(out)![1]!;
});
afterAll(async () => {
  child.kill();
  await tree.remove();
});

async function call<Value>(name: string, given: unknown = {}): Promise<Value> {
  const response = await fetch(`${lab}api/${name}`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(given),
  });
  return (await response.json()) as Value;
}
const ask = (target: string, as = "navigation", headers = {}, method = "GET"): Promise<Beam> =>
  call("ask", { method, target, as, headers, behind: false });
const stage = (beam: Beam, name: string) => beam.stages.find((one) => one.name === name)!;

describe("who may open it", () => {
  const raw = (path: string, headers: Record<string, string>, method = "GET"): Promise<number> =>
    new Promise((done, fail) => {
      const { hostname, port } = new URL(lab);
      askRaw({ hostname, port, path, headers, method }, (response) => done(response.resume().statusCode!))
        .on("error", fail)
        .end();
    });
  const own = () => new URL(lab).host;
  const path = () => new URL(lab).pathname;
  test.each<[string, () => [string, Record<string, string>, string?], number]>([
    ["its own address", () => [path(), { host: own() }], 200],
    ["another name of this machine", () => [path(), { host: own().replace("127.0.0.1", "localhost") }], 200],
    ["no token", () => ["/", { host: own() }], 404],
    ["another token", () => [`/${"x".repeat(24)}/`, { host: own() }], 404],
    [
      "a name that a stranger gave to this machine",
      () => [path(), { host: `rebound.example:${new URL(lab).port}` }],
      404,
    ],
    [
      "another origin",
      () => [
        `${path()}api/info`,
        { host: own(), origin: "https://elsewhere.example", "content-type": "application/json" },
        "POST",
      ],
      404,
    ],
    ["a page of another site", () => [path(), { host: own(), "sec-fetch-site": "cross-site" }], 404],
    [
      "a form of a page",
      () => [`${path()}api/info`, { host: own(), "content-type": "text/plain" }, "POST"],
      405,
    ],
    [
      "a call that there is not",
      () => [`${path()}api/constructor`, { host: own(), "content-type": "application/json" }, "POST"],
      404,
    ],
  ])("%s: %#", async (_title, asked, status) => {
    expect(await raw(...asked())).toBe(status);
  });

  test("what cannot be read is told, and harms nothing", async () => {
    expect(await call("ask", { method: "GET" })).toMatchObject({
      problem: expect.stringContaining("target: found nothing"),
    });
    expect(await call("folder", { mount: 99, path: "../.." })).toEqual({ entries: [], more: 0 });
    expect(await call("preview", { text: "x".repeat(5 * 1024 * 1024) })).toEqual({
      problem: "The text is longer than the lab takes (4 MiB).",
    });
    expect((await call<LabInfo>("info")).about).toBe("epistyle.config.yaml");
  });
});

test("the tree says what each name is to visitors", async () => {
  const { entries } = await call<TreeFolder>("folder", { mount: 0, path: "" });
  expect(
    Object.fromEntries(
      entries.map(({ name, state, isArea }) => [name, isArea ? `${state}, an area` : state]),
    ),
  ).toEqual({
    "404.html": "served",
    "app.js.map": "not listed",
    guide: "served",
    "index.html": "served",
    page: "served",
    "page.html": "served",
    "pixel.png": "served",
    records: "served, an area",
    "style.css": "served",
    "view.bak": "withheld",
  });
  let found: Found;
  do found = await call("search", { text: "guide" });
  while (found.isPartial);
  expect(found).toMatchObject({ addresses: ["/guide/", "/guide/index.html"], total: 2 });
});

test("the tree opens what is withheld, too: each name says why visitors do not get it", async () => {
  const folder = await makeTree({ "drafts/plan.html": "a plan", open: { link: "drafts" }, "a.html": "a" });
  const mounts = [{ folder: ".", withheld: ["drafts/"] }];
  const subject = await openSubject(defineSite({ base: folder.root, mounts }));
  const view = async (path: string): Promise<string[]> =>
    (await viewFolder(subject, 0, path)).entries.map(
      ({ name, kind, state, because, sizeBytes }) => `${name} ${kind} ${state} ${sizeBytes} ${because}`,
    );
  const pattern = 'the pattern "drafts/" of mounts[0]';
  expect([await view(""), await view("drafts"), await view("open")]).toEqual([
    [
      `drafts directory withheld 0 ${pattern}`,
      `open directory withheld 0 it leads to drafts; ${pattern}`,
      "a.html file served 1 ",
    ],
    [`plan.html file withheld 6 ${pattern}`],
    [`plan.html file withheld 6 it leads to drafts/plan.html; ${pattern}`],
  ]);
  await folder.remove();
});

describe("the beam", () => {
  test.each<[string, Parameters<typeof ask>, string, string, Partial<Beam>]>([
    ["a file", ["/style.css", "script"], "file", "public/style.css", { status: "200 OK", tone: "good" }],
    [
      "a withheld file",
      ["/view.bak"],
      "file",
      "no file; public/404.html is sent for the error",
      { status: "404 Not Found", tone: "refused" },
    ],
    ["a target that cannot be read", ["/%zz"], "target", "cannot be read", { status: "400 Bad Request" }],
    [
      "an old address",
      ["/old/rook"],
      "file",
      "a redirect to ../guide/rook",
      { status: "301 Moved Permanently", tone: "led on" },
    ],
    ["a reload", ["/style.css", "reload"], "conditions", "not-modified", { status: "304 Not Modified" }],
    [
      "a player",
      ["/style.css", "player", { range: "bytes=2-3" }],
      "range",
      "partial",
      { status: "206 Partial Content" },
    ],
    ["a method", ["/", "navigation", {}, "POST"], "rules", "method", { status: "405 Method Not Allowed" }],
    ["a listing", ["/records/"], "file", "a list of the directory's files", { status: "200 OK" }],
  ])("%s is decided at its stage", async (_title, asked, name, decided, wanted) => {
    const beam = await ask(...asked);
    expect(beam).toMatchObject(wanted);
    expect(stage(beam, name)).toMatchObject({ state: "decided", decided });
  });

  test("fields and rules lead to their lines, and what else would answer is told", async () => {
    const css = await ask("/style.css");
    expect(css.fields.find(({ name }) => name === "Cache-Control")).toMatchObject({
      value: "max-age=3600",
      written: { line: 7 },
    });
    expect(stage(css, "rules").rows[0]).toMatchObject({
      cells: ["withheld", expect.any(String), "mounts[0]"],
      written: { line: 4 },
    });
    expect(stage(await ask("/old/"), "file").rows.at(-1)).toMatchObject({ written: { line: 11 } });
    expect((await ask("/page")).otherwise).toEqual([
      {
        without: "page",
        status: "200 OK",
        answer: "public/page.html",
        why: "the name with the implied extension .html",
      },
      { without: "page.html", status: "404 Not Found", answer: "no file", why: "no such file" },
    ]);
  });

  test("bodies are shown and never run", async () => {
    expect((await ask("/")).body).toMatchObject({
      kind: "text",
      text: "<title>Larkholm</title><script>go()</script>",
    });
    expect((await ask("/pixel.png")).body).toMatchObject({
      kind: "picture",
      url: expect.stringMatching(/^data:image\/png;base64,/),
    });
    expect((await ask("/", "navigation", {}, "HEAD")).body.kind).toBe("none");
  });
});

describe("a change of the configuration", () => {
  test("is told before it is saved, or what is wrong with it, at its line", async () => {
    const changed = await call<Preview>("preview", {
      text: CONFIG.replace("1h", "2h").replace("['*.bak']", "['*.csv']"),
    });
    expect(changed).toMatchObject({
      kind: "changes",
      changes: { sentence: expect.stringMatching(/^4 addresses change: /) },
    });
    const wrong = await call<Preview>("preview", { text: CONFIG.replace("withheld", "witheld") });
    expect(wrong).toEqual({
      kind: "problems",
      problems: [
        { text: 'mounts[0]: found the key "witheld"; write "withheld".', at: { line: 4, column: 5 } },
      ],
    });
    expect(await call<Preview>("preview", { text: "mounts: [" })).toMatchObject({
      kind: "problems",
      problems: [{ at: { line: 1 } }],
    });
    expect(await call<Preview>("preview", { text: CONFIG.replace("public", "publik") })).toMatchObject({
      kind: "problems",
      problems: [{ text: expect.stringContaining('found "publik"'), at: { line: 2 } }],
    });
  });

  test("an address is asked as if the text were saved; a text that cannot be has no answer", async () => {
    const question = {
      method: "GET",
      target: "/style.css",
      as: "navigation",
      headers: {},
      behind: false,
    };
    const draft = (text: string): Promise<Beam | null> => call("ask-draft", { text, question });
    const text = CONFIG.replace("['*.bak']", "['*.css']");
    expect([(await call<Beam>("ask", question)).status, (await draft(text))!.status]).toEqual([
      "200 OK",
      "404 Not Found",
    ]);
    expect(await draft("mounts: [")).toBeNull();
    expect(await call("ask-draft", { text })).toEqual({ problem: expect.stringContaining("question") });
  });

  test("is saved, and in force at once, also of the site; what was changed elsewhere is not written over", async () => {
    const file = join(tree.root, "epistyle.config.yaml");
    const next = CONFIG.replace("1h", "3h");
    const lifetime = async (wanted: string) =>
      expect((await fetch(`${site}style.css`)).headers.get("cache-control")).toBe(wanted);
    expect(await call("save", { text: next.replace("mounts", "mount"), base: CONFIG })).toMatchObject({
      ok: false,
    });
    expect(await call("save", { text: next, base: CONFIG })).toEqual({ ok: true });
    expect(readFileSync(file, "utf8")).toBe(next);
    expect((await ask("/style.css")).fields.find(({ name }) => name === "Cache-Control")!.value).toBe(
      "max-age=10800",
    );
    await vi.waitFor(() => lifetime("max-age=10800"), 10_000);
    // Within the time that the lab takes to see it.
    writeFileSync(file, CONFIG);
    expect(await call("save", { text: next, base: next })).toMatchObject({
      ok: false,
      isOther: true,
      problem: expect.stringContaining("was changed by somebody else"),
    });
    expect(readFileSync(file, "utf8")).toBe(CONFIG);
    // What comes next asks under the old one again.
    await vi.waitFor(() => lifetime("max-age=3600"), 10_000);
    // Also when the lab has seen it long ago: the page that saves has not.
    expect(await call("save", { text: next, base: next })).toMatchObject({ ok: false, isOther: true });
    expect(readFileSync(file, "utf8")).toBe(CONFIG);
  });

  test("keeps the file's permissions, and a link; a file that is changed elsewhere can be saved again at once", async () => {
    const file = join(tree.root, "expectations.yaml");
    const real = join(tree.root, "kept/real.yaml");
    const before = readFileSync(file, "utf8");
    mkdirSync(join(tree.root, "kept"));
    renameSync(file, real);
    symlinkSync("kept/real.yaml", file);
    chmodSync(real, 0o640);
    const text = `${before}# one\n`;
    expect(await call("save-expectations", { text, base: before })).toEqual({ ok: true });
    expect([
      lstatSync(file).isSymbolicLink(),
      statSync(real).mode & 0o777,
      readFileSync(real, "utf8"),
    ]).toEqual([true, 0o640, text]);
    writeFileSync(real, before);
    expect(await call("save-expectations", { text, base: text })).toMatchObject({ ok: false, isOther: true });
    // What is there now is what the page is told, and can save from.
    const { expectations } = await call<LabInfo>("info");
    expect(expectations!.text).toBe(before);
    expect(await call("save-expectations", { text: before, base: expectations!.text })).toEqual({ ok: true });
    expect(readdirSync(join(tree.root, "kept"))).toEqual(["real.yaml"]);
    for (const wrong of [{ text }, { text, base: 1 }, { text, base: null }])
      expect(await call("save-expectations", wrong)).not.toMatchObject({ ok: true });
  });

  test("requests with large fields are shown in part, and end no page's watch", async () => {
    const events = await fetch(`${lab}api/watch`);
    const reader = events.body!.pipeThrough(new TextDecoderStream()).getReader();
    const large = Object.fromEntries(
      Array.from({ length: 60 }, (_, index) => [`x-large-${index}`, "y".repeat(200)]),
    );
    for (let turn = 0; turn < 120; turn++)
      await (await fetch(`${site}style.css?${"q".repeat(2000)}&${turn}`, { headers: large })).text();
    await fetch(`${site}style.css?last`);
    let seen = "";
    while (!seen.includes("?last")) {
      const { value, done } = await reader.read();
      expect(done).toBe(false);
      seen += value;
    }
    await reader.cancel();
    const sizes = seen
      .split("\n")
      .filter((one) => one.startsWith("data: "))
      .map((one) => one.length);
    expect([sizes.length >= 100, Math.max(...sizes) < 20_000]).toEqual([true, true]);
  });
});

test("an answer becomes a case that holds, and what does not hold is told at its line", async () => {
  const { text } = await call<{ text: string }>("draft-case", {
    method: "GET",
    target: "/style.css",
    as: "script",
    headers: {},
    behind: false,
  });
  expect(text).toContain("mediaType: text/css");
  const outcome = await call<CheckOutcome>("check", {
    text: `version: 1\ncases:\n${text.replace(/^/gm, "  ").trimEnd()}\n`,
  });
  expect(outcome).toMatchObject({ kind: "results", cases: [{ outcome: "passed" }] });
  const { expectations } = await call<LabInfo>("info");
  expect(await call<CheckOutcome>("check", { text: expectations!.text })).toMatchObject({
    kind: "results",
    cases: [
      {
        outcome: "failed",
        at: { line: 3 },
        differences: [{ about: "media type", expected: "text/plain", got: "text/html" }],
      },
    ],
  });
  expect(await call<CheckOutcome>("check", { text: "version: 1\ncases: 3\n" })).toMatchObject({
    kind: "problems",
    problems: [{ at: { line: 2 } }],
  });
});

test("requests are told as they come, without what says who somebody is", async () => {
  await fetch(`${site}guide/`, { headers: { cookie: "member=42", "x-season": "spring" } });
  const response = await fetch(`${lab}api/watch`);
  const reader = response.body!.getReader();
  let told = "";
  while (!told.includes("/guide/")) told += new TextDecoder().decode((await reader.read()).value);
  await reader.cancel();
  expect(told).toMatch(/"target":"\/guide\/"/);
  expect(told).toContain('"cookie":"(left out)"');
  expect(told).toContain('"x-season":"spring"');
  expect(told).not.toContain("member=42");
});

test.each([
  [
    "another host",
    ["--host", "0.0.0.0"],
    "--lab: found --host 0.0.0.0; a lab is only for a site that listens on this machine",
  ],
  ["workers", ["--workers", "2"], "--lab: found --workers too"],
  ["a sealed site", ["--seal"], "--lab: found --seal too"],
])("serve --lab refuses %s", async (_title, args, message) => {
  const refused = spawn(process.execPath, [CLI, "serve", "--lab", "--port", "0", ...args], {
    cwd: tree.root,
  });
  let err = "";
  refused.stderr.on("data", (chunk) => (err += chunk));
  const status = await new Promise((done) => refused.on("close", done));
  expect([status, err]).toEqual([2, expect.stringContaining(message)]);
});

describe("what changes between two configurations", () => {
  const FILES = {
    "index.html": "<title>a</title>",
    "a.html": "a",
    "a.css": "a",
    "data.csv": "1",
    "img/a.png": "a",
    "img/a.webp": "b",
  };
  const source = memorySource(FILES, { modified: new Date("2026-05-01T00:00:00Z") });
  const open = (rules: Partial<SiteConfig["mounts"][number]>, more: Partial<SiteConfig> = {}) =>
    openSubject(defineSite({ ...more, mounts: [{ source, ...rules }] }));
  test.each<[string, Parameters<typeof open>, string]>([
    ["nothing", [{}], "Nothing changes: every address answers as before."],
    [
      "a lifetime",
      [{ caching: [{ files: "*.css", policy: "no-store" }] }],
      "1 address changes: 1 gets another lifetime.",
    ],
    ["what is withheld", [{ withheld: ["*.csv"] }], "1 address changes: 1 is no longer found."],
    [
      "a media type",
      [{ mediaTypes: { ".csv": "text/plain" } }],
      "1 address changes: 1 gets another media type.",
    ],
    ["a download", [{ downloads: ["*.csv"] }], "1 address changes: 1 changes between download and page."],
    ["an old address", [{}, { moved: { "/b": "/a" } }], "1 address changes: 1 redirects now."],
    ["what is gone", [{}, { gone: ["/b"] }], "1 address changes: 1 is gone."],
    [
      "a listing",
      [{ areas: { "/img": { listing: true } } }],
      "2 addresses change: 1 is found now and 1 redirects now.",
    ],
    [
      "variants",
      [{ variants: { formats: ["webp"] } }],
      "1 address changes: 1 gets another media type, 1 gets other header fields and 1 is answered by another file.",
    ],
    [
      "other origins",
      [{ crossOrigin: "*" }],
      expect.stringMatching(/other cross-origin fields/) as unknown as string,
    ],
    [
      "a field",
      [{ headers: [{ files: "a.*", set: { "X-Site": "a" } }] }],
      "5 addresses change: 5 get other header fields.",
    ],
    [
      "tags",
      [{ validators: "metadata" }],
      expect.stringMatching(/get another entity tag/) as unknown as string,
    ],
    [
      "a shell",
      [{ appShell: "/index.html" }],
      expect.stringMatching(/^4 addresses change: 4 are found now/) as unknown as string,
    ],
  ])("%s", async (_title, given, sentence) => {
    const changes = await findChanges(await open({}), await open(...given));
    expect(changes.sentence).toEqual(sentence);
    expect(await findChanges(await open(...given), await open({}))).toMatchObject({
      changed: changes.changed,
    });
  });

  test.each<[string, object, object, string[]]>([
    ["addresses that a shell does not answer", {}, { except: ["/api"] }, ["/api", "/api/…"]],
    ["routes with a dot", {}, { routes: ["users/*"] }, ["/users/…"]],
  ])("%s are asked about, though no file is there", async (_what, before, after, examples) => {
    const shell = (more: object) => open({ appShell: { file: "/index.html", ...more } });
    const changes = await findChanges(await shell(before), await shell(after));
    expect(changes.groups.flatMap((group) => group.examples)).toEqual(examples);
  });

  test("what is known beforehand is held against asking every address: any configurations, over names that rules tell apart, and links", async () => {
    const names = [
      "index.html",
      "a.html",
      "b.html",
      "c.html",
      "d.html",
      "e.html",
      "e",
      "m.html",
      "n.html",
      "o.htm",
      "a.tar.gz",
      "b.gz",
      "notes/c.txt",
      "notes/d.txt",
      "notes/e.txt",
      "notes/f.txt",
      "notes/index.htm",
      "img/g.png",
      "img/h.png",
      "img/i.png",
      "img/j.PNG",
      "drafts/k.html",
    ];
    const folder = await makeTree({
      ...Object.fromEntries(names.map((name) => [name, name])),
      "public.html": { link: "drafts/k.html" },
      open: { link: "drafts" },
    });
    const files = fc.constantFrom(
      "*",
      "*.html",
      "*.gz",
      "*.tar.gz",
      "notes/**",
      "notes/c.*",
      "[a-e].*",
      "[b-n]",
      "drafts/",
      "*.png",
      "img/*",
    );
    const several = <Item>(item: fc.Arbitrary<Item>) => fc.array(item, { maxLength: 2 });
    const rules = fc.record(
      {
        withheld: several(files),
        notListed: several(files),
        downloads: several(files),
        caching: several(
          fc.record({ files, policy: fc.constantFrom("no-store", "immutable", { maxAge: "1h" }) }),
        ),
        headers: several(
          fc.record({ files, set: fc.constantFrom({ "X-Site": "a" }, { "X-Site": "b", "X-Other": "c" }) }),
        ),
        mediaTypes: fc.constantFrom({ ".gz": "x/gz" }, { ".tar.gz": "x/tar" }, { ".txt": "text/x-note" }),
        charset: fc.constantFrom("utf-8", "latin1"),
        crossOrigin: fc.constantFrom("*", ["https://elsewhere.example"], false),
        noVarySearch: fc.boolean(),
        digests: fc.boolean(),
        whenMissing: fc.constantFrom("pass", "answer"),
      },
      { requiredKeys: [] },
    );
    const mount = fc
      .tuple(rules, fc.dictionary(fc.constantFrom("/notes", "/img"), rules, { maxKeys: 1 }))
      .map(([own, areas]) => ({ folder: ".", listing: true, ...own, areas }));
    const configure = (one: object) =>
      openSubject(defineSite({ base: folder.root, mounts: [one] } as SiteConfig));
    // A file that was written less than two seconds ago has no digest yet: which ones those are differs from one question to the next.
    vi.useFakeTimers({ toFake: ["Date"], now: Date.now() + 3_600_000 });
    await fc.assert(
      fc.asyncProperty(mount, mount, async (one, other) => {
        const [here, there] = [
          await configure(one),
          await configure({
            ...other,
            areas: Object.fromEntries(
              Object.keys(one.areas).map((key) => [key, (other.areas as Record<string, object>)[key] ?? {}]),
            ),
          }),
        ];
        const steps: number[] = [];
        let total = 0;
        const [quick, slow] = [
          await findChanges(here, there, {
            onProgress(progress) {
              steps.push(progress.done);
              total = progress.total;
            },
          }),
          await findChanges(here, there, { asksAll: true }),
        ];
        const told = ({ groups, sentence, changed }: typeof quick) => [
          sentence,
          changed,
          ...groups
            .map(({ words, count, here: before, there: after }) => `${count} ${words}: ${before} → ${after}`)
            .sort(),
        ];
        expect(told(quick)).toEqual(told(slow));
        expect(quick.asked).toBeLessThanOrEqual(slow.asked);
        // How far it has come never goes back, and ends at the whole.
        expect(steps).toEqual(steps.toSorted((a, b) => a - b));
        expect(steps.at(-1) ?? 0).toBe(total);
      }),
      { numRuns: 60 },
    );
    vi.useRealTimers();
    await folder.remove();
  });

  test("a headline counts as the groups below it do", async () => {
    const changes = await findChanges(
      await open({}),
      await open({
        caching: [
          { files: "*.css", policy: "no-store" },
          { files: "*.csv", policy: "no-store" },
        ],
        mediaTypes: { ".csv": "text/plain" },
      }),
    );
    expect(changes.sentence).toBe(
      "2 addresses change: 2 get another lifetime and 1 gets another media type.",
    );
    expect(changes.groups.map(({ count, words }) => `${count} ${words}`).sort()).toEqual([
      "1 gets another media type",
      "2 get another lifetime",
    ]);
  });

  test("files that are answered alike are not all asked, and the outcome is the same", async () => {
    const files = Object.fromEntries(
      Array.from({ length: 60 }, (_, i) => [`notes/${i}.${i % 3 === 0 ? "html" : "txt"}`, String(i)]),
    );
    const folder = await makeTree(files);
    const configure = (rules: object, base = folder.root) =>
      openSubject(defineSite({ base, mounts: [{ folder: ".", ...rules }] }));
    const rules = {
      caching: [
        { files: "*1.txt", policy: "no-store" },
        { files: "*.html", policy: { maxAge: "1h" } },
      ],
      withheld: ["*7.*"],
      downloads: ["notes/5*"],
    };
    const quick = await findChanges(await configure({}), await configure(rules as object));
    // Another way to write the folder: then nothing is known beforehand.
    const slow = await findChanges(
      await configure({}),
      await configure(rules as object, `${folder.root}/notes/..`),
    );
    await folder.remove();
    expect(quick.asked).toBeLessThan(slow.asked);
    const told = ({ groups }: typeof quick) =>
      groups.map(({ words, count, here, there }) => `${count} ${words}: ${here} → ${there}`).sort();
    expect(told(quick)).toEqual(told(slow));
    expect(quick.sentence).toBe(slow.sentence);
  });

  test("a look that nobody waits for any more ends", async () => {
    await expect(
      findChanges(await open({}), await open({}), { signal: AbortSignal.abort(new Error("later")) }),
    ).rejects.toThrow("later");
  });
});

test("the licences of what the lab's page bundles are in the notices", () => {
  const notices = readFileSync(new URL("../dist/THIRD-PARTY-NOTICES.txt", import.meta.url), "utf8");
  const page = JSON.parse(readFileSync(new URL("../package.json", import.meta.url), "utf8"))
    .devDependencies as Record<string, string>;
  const bundled = Object.keys(page).filter((name) =>
    /^(?:codemirror|preact|@codemirror\/|@lezer\/)/.test(name),
  );
  expect(bundled.length).toBeGreaterThan(7);
  for (const name of [...bundled, "@lezer/lr", "style-mod", "parse5", "saxes"])
    expect(notices).toMatch(new RegExp(`^${name} \\d+\\.\\d+\\.\\d+\n-+\n\n[^]{200}`, "m"));
});

describe("beside an application of one's own", () => {
  test("its requests are shown, and what cannot be opened is told", async () => {
    const own = await makeTree({ "site.yaml": "mounts: [{ folder: files }]", "files/index.html": "home" });
    const config = join(own.root, "site.yaml");
    const site = await openSite(await loadConfigFile(config));
    await expect(attachLab(site, { config: join(own.root, "none.yaml") })).rejects.toThrow(
      /^attachLab: there is no configuration file .*none\.yaml"; name another one\.$/,
    );
    const lab2 = await attachLab(site, { config });
    const server = await startServer(site, { port: 0, onResponse: lab2.onResponse });
    await fetch(`${server.url}?asked`);
    const watching = await fetch(`${lab2.url}api/watch`);
    const reader = watching.body!.pipeThrough(new TextDecoderStream()).getReader();
    let seen = "";
    while (!seen.includes("?asked")) seen += (await reader.read()).value ?? "";
    await reader.cancel();
    await lab2.close();
    await server.close();
    await own.remove();
  });

  test("a token in a file: readable by its owner alone, kept for the next start, refused if malformed", async () => {
    const own = await makeTree({ "index.html": "home", "short.txt": "abc" });
    const site = await openSite({ mounts: [{ folder: own.root }] });
    const open = (name: string) =>
      attachLab(site, { config: { mounts: [{ folder: own.root }] }, tokenFile: join(own.root, name) });
    const paths: string[] = [];
    for (let turn = 0; turn < 2; turn++) {
      const opened = await open("token");
      paths.push(new URL(opened.url).pathname);
      await opened.close();
    }
    const token = readFileSync(join(own.root, "token"), "utf8").trim();
    expect([paths, statSync(join(own.root, "token")).mode & 0o777]).toEqual([
      [`/${token}/`, `/${token}/`],
      0o600,
    ]);
    await expect(open("short.txt")).rejects.toThrow(/short\.txt: it has no token of 16 to 100 letters/);
    await expect(open("none/token")).rejects.toThrow(/none\/token: it cannot be written \(ENOENT\)/);
    await own.remove();
  });
});
