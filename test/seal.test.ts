import {
  appendFileSync,
  cpSync,
  linkSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { writeSeal } from "../src/adapters/node.js";
import type { Mount } from "../src/core/rules/mount.js";
import { type FileSource, memorySource, openSite, type Site, type SiteConfig } from "../src/index.js";
import { compileSite } from "../src/site/compile-site.js";
import { takeSeal } from "../src/sources/sealed/take-seal.js";
import { ask, makeTree, type Tree } from "./helpers.js";

const LARGE = "l".repeat(3_000_000);
const RULES = {
  withheld: ["drafts"],
  listing: true,
  codings: { prebuilt: ["br" as const], compress: true },
  errorPages: { 404: "404.html" },
  impliedExtensions: [".html"],
  areas: { "/app": { appShell: "/app/index.html", listing: false } },
};
const FILES = {
  "index.html": "<h1>Larkholm</h1>",
  "404.html": "not here",
  "about.html": "about",
  "style.css": "a{}".repeat(900),
  "style.css.br": "coded",
  "app/index.html": "shell",
  "drafts/x.html": "draft",
  ".env": "env",
  "large.bin": LARGE,
  "notes/a b.txt": "note",
  unnamed: "<html>",
  alias: { link: "notes" },
};
const REQUESTS: [string, Record<string, string>][] = [
  "/",
  "/about",
  "/about.html",
  "/style.css",
  "/app/deep",
  "/drafts/x.html",
  "/.env",
  "/large.bin",
  "/notes/",
  "/notes",
  "/notes/a%20b.txt",
  "/alias/a%20b.txt",
  "/unnamed",
  "/none",
  "/?a",
].flatMap((path): [string, Record<string, string>][] => [
  [`GET ${path}`, {}],
  [`HEAD ${path}`, {}],
  [`GET ${path}`, { "accept-encoding": "br, gzip", accept: "text/html", "sec-fetch-mode": "navigate" }],
  [`GET ${path}`, { range: "bytes=2-9" }],
]);

let tree: Tree;
const at = (path: string): string => join(tree.root, path);
const config = (folder: string): SiteConfig => ({ mounts: [{ folder: at(folder), ...RULES }] });
const told = async (site: Site): Promise<object[]> => {
  const all: object[] = [];
  for (const [request, headers] of REQUESTS) {
    const { summary, fields, body } = await ask(site, request, headers);
    // A listing alone tells the times of files.
    const isListing = summary === "200 listing";
    if (isListing) delete fields.etag;
    // One in a coding has them in it.
    const isCoded = isListing && fields["content-encoding"] !== undefined;
    if (isCoded) delete fields["content-length"];
    const shown = isCoded ? "" : isListing ? body.replaceAll(/\d{4}-\d\d-\d\d[T ].*?<\/time>/g, "") : body;
    all.push({ request, headers, summary, fields, body: shown.length > 10_000 ? shown.length : shown });
  }
  return all;
};

beforeAll(async () => {
  tree = await makeTree(
    Object.fromEntries(Object.entries(FILES).map(([path, content]) => [`site/${path}`, content])),
  );
  cpSync(at("site"), at("twin"), { recursive: true, verbatimSymlinks: true });
  for (const [i, path] of Object.keys(FILES).entries())
    if (path !== "alias") utimesSync(at(`twin/${path}`), 1_700_000_000 + 1000 * i, 1_700_000_000 + 1000 * i);
});
afterAll(() => tree.remove());

test("equal trees answer alike in every field, whatever their times: sealed at start, and from a file that another machine wrote", async () => {
  const sealed = await openSite(config("site"), { seal: true });
  const first = await told(sealed);
  expect(await told(await openSite(config("twin"), { seal: true }))).toEqual(first);
  const { files, bytes, warnings } = await writeSeal(config("site"), at("seal.jsonl"));
  expect([files, bytes > 3_000_000, warnings]).toEqual([10, true, []]);
  const lines = readFileSync(at("seal.jsonl"), "utf8")
    .trimEnd()
    .split("\n")
    .slice(1)
    .map((line) => JSON.parse(line) as { path: string; digest: string; codings?: object; type: string });
  const coded = lines.find(({ path }) => path === "style.css.br")!;
  expect(
    lines
      .map(({ path, type, codings }) => [path, type, codings])
      .filter(([path]) => ["style.css", "unnamed", "notes/a b.txt"].includes(path as string))
      .sort(),
  ).toEqual([
    ["notes/a b.txt", "text/plain", undefined],
    ["style.css", "text/css", { br: coded.digest }],
    ["unnamed", expect.any(String), undefined],
  ]);
  expect(await told(await openSite(config("twin"), { seal: at("seal.jsonl") }))).toEqual(first);
  for (const { fields, summary } of first as { fields: Record<string, string>; summary: string }[])
    if (fields.etag !== undefined && !summary.includes("listing"))
      expect(fields.etag).toMatch(/^"[\w-]{22}(-[\w-]{4})?(-br|-gzip)?"$/);
  // What is said is what a live folder says, but for dates and tags.
  const summaries = (all: object[]) => all.map((one) => (one as { summary: string }).summary);
  expect(summaries(first)).toEqual(summaries(await told(await openSite(config("site")))));
  const walked: string[] = [];
  for await (const { path } of sealed.files()) walked.push(path);
  expect(walked.filter((path) => /draft|env/.test(path))).toEqual([]);
});

describe("a folder that changes after it was sealed", () => {
  const fill = (folder: string): void => {
    mkdirSync(at(folder), { recursive: true });
    for (const [name, text] of Object.entries({
      "a.txt": "as sealed",
      "b.txt": "as sealed",
      "large.bin": LARGE,
      "404.html": "not here",
    }))
      writeFileSync(at(`${folder}/${name}`), text);
  };

  test("is served as it was, from memory; what is read from disk is refused unless it is what was sealed", async () => {
    fill("changed");
    const site = await openSite({ mounts: [{ folder: at("changed"), listing: true }] }, { seal: true });
    writeFileSync(at("changed/a.txt"), "changed");
    rmSync(at("changed/b.txt"));
    writeFileSync(at("changed/new.txt"), "new");
    const summaries = async () =>
      Promise.all(
        ["/a.txt", "/b.txt", "/new.txt", "/large.bin", "/"].map(
          async (path) => `${(await ask(site, `GET ${path}`)).summary}`,
        ),
      );
    expect(await summaries()).toEqual([
      "200 a.txt",
      "200 b.txt",
      "404 no-such-file",
      "200 large.bin",
      "200 listing",
    ]);
    expect([
      (await ask(site, "GET /a.txt")).body,
      (await ask(site, "GET /", { accept: "text/plain" })).body.trim().split("\n"),
    ]).toEqual(["as sealed", ["404.html", "a.txt", "b.txt", "large.bin"]]);
    // Other bytes of the same length, a longer file, a folder, nothing, and the same bytes in another file.
    for (const change of [
      () => writeFileSync(at("changed/large.bin"), LARGE.replace(/l$/, "x")),
      () => appendFileSync(at("changed/large.bin"), "x"),
      () => {
        rmSync(at("changed/large.bin"));
        mkdirSync(at("changed/large.bin"));
      },
      () => rmSync(at("changed/large.bin"), { recursive: true }),
    ]) {
      change();
      for (const _ of [1, 2])
        expect(await ask(site, "GET /large.bin")).toMatchObject({
          summary: "503 not-sealed",
          body: "503 Service Unavailable\nThis file has changed since the site was published. It is not sent.\n",
        });
    }
    writeFileSync(at("changed/large.bin"), LARGE);
    for (const _ of [1, 2])
      expect((await ask(site, "GET /large.bin", { range: "bytes=-3" })).body).toBe("lll");
    // A link or a hard link to the same bytes is the same content.
    renameSync(at("changed/large.bin"), at("changed/other.bin"));
    linkSync(at("changed/other.bin"), at("changed/large.bin"));
    expect((await ask(site, "GET /large.bin")).summary).toBe("200 large.bin");
  });

  test("a large file that is changed while it is sent is cut off: no answer mixes two versions", async () => {
    fill("mixed");
    const site = await openSite({ mounts: [{ folder: at("mixed") }] }, { seal: true });
    const answer = await site.respond({ method: "GET", target: "/large.bin", headers: {} });
    if (answer.kind === "pass" || answer.body.kind !== "file") throw new Error("no file");
    const { file } = answer.body;
    expect((await file.read(0, 10)).length).toBe(10);
    appendFileSync(at("mixed/large.bin"), "x");
    await expect(file.read(10, 10)).rejects.toThrow("The file was changed after it was sealed.");
    file.close();
  });

  test("from a seal file, small files are held against it when they are first asked for", async () => {
    fill("later");
    await writeSeal({ mounts: [{ folder: at("later") }] }, at("later.jsonl"));
    writeFileSync(at("later/a.txt"), "AS SEALED");
    const site = await openSite({ mounts: [{ folder: at("later") }] }, { seal: at("later.jsonl") });
    expect([(await ask(site, "GET /a.txt")).summary, (await ask(site, "GET /b.txt")).summary]).toEqual([
      "503 not-sealed",
      "200 b.txt",
    ]);
    writeFileSync(at("later/b.txt"), "changed");
    expect((await ask(site, "GET /b.txt")).body).toBe("as sealed");
    const { hints } = await site.explain({ method: "GET", target: "/a.txt", headers: {} });
    expect(hints[0]).toMatch(/^Put the file back as it was, or seal the folder again/);
  });

  test("a link that led to a release is followed once", async () => {
    fill("releases/1");
    fill("releases/2");
    symlinkSync("releases/1", at("current"));
    const site = await openSite({ mounts: [{ folder: at("current") }] }, { seal: true });
    rmSync(at("current"));
    symlinkSync("releases/2", at("current"));
    writeFileSync(at("releases/2/large.bin"), "another");
    expect((await ask(site, "GET /large.bin")).summary).toBe("200 large.bin");
  });
});

test("an empty file that comes first is there", async () => {
  const small = await makeTree({ "a-empty.txt": "" });
  const site = await openSite({ mounts: [{ folder: small.root }] }, { seal: true });
  expect([site.warnings, (await ask(site, "GET /a-empty.txt")).summary]).toEqual([[], "200 a-empty.txt"]);
  await small.remove();
});

test("what cannot be read is left out, with a warning", async () => {
  const own = await makeTree({ "a.txt": "a", "closed.txt": "c" });
  await own.forbid("closed.txt");
  const site = await openSite({ mounts: [{ folder: own.root }] }, { seal: true });
  const isRoot = process.getuid?.() === 0;
  expect(site.warnings).toEqual(
    isRoot
      ? []
      : ["The mount at /: closed.txt: EACCES; it was not sealed, and is answered as if it did not exist."],
  );
  await own.remove();
});

test("a name that leads to a withheld file by the time it is read is not sealed", async () => {
  const source = memorySource({ "a.txt": "a", "b.txt": "b" });
  const exchanged: FileSource = {
    ...source,
    async open(path) {
      const found = await source.open(path);
      return path === "a.txt" && found.kind === "file" ? { ...found, realPath: "drafts/x.txt" } : found;
    },
  };
  const rules = { withheld: { by: (path: string) => (path.startsWith("drafts") ? "a rule" : undefined) } };
  const mount = { at: "", source: exchanged, areas: { find: () => ({ value: rules }) } } as unknown as Mount;
  const { folder, left } = await takeSeal(mount, async () => {});
  expect([[...folder.files.keys()], left]).toEqual([["b.txt"], []]);
  // A source may give bytes that it has at hand, and not fill what it is lent.
  const found = await folder.open("b.txt");
  expect(found.kind === "file" && Buffer.from(found.file.bytes!).toString()).toBe("b");
});

describe("a seal file that cannot be used", () => {
  let good: string[];
  beforeAll(async () => {
    await writeSeal(config("site"), at("good.jsonl"));
    good = readFileSync(at("good.jsonl"), "utf8").trimEnd().split("\n");
  });

  const change = (line: number, from: string | RegExp, to: string) => () =>
    good.map((one, i) => (i === line ? one.replace(from, to) : one));
  test.each<[string, () => string[], string]>([
    ["is none", () => ["hello"], "bad.jsonl: this is not a seal file; write one with epistyle seal --out "],
    ["is nothing", () => ["null"], "this is not a seal file"],
    ["names no mounts", () => ['{"seal":1}'], "this is not a seal file"],
    ["is empty", () => [""], "this is not a seal file"],
    [
      "counts a mount by no number",
      () => ['{"seal":1,"mounts":[null]}'],
      ":1: found the mount null; a mount has a prefix and a number of files: seal again.",
    ],
    [
      "has a mount that is deep",
      () => [`{"seal":1,"mounts":[${"[".repeat(9000)}${"]".repeat(9000)}]}`],
      ":1: found the mount an object; a mount has a prefix",
    ],
    [
      "counts files by a text",
      () => ['{"seal":1,"mounts":[{"at":"/","files":"1"}]}', "{}"],
      ":1: found the mount an object; a mount has",
    ],
    [
      "has a mount that is a name of every object",
      () => ['{"seal":1,"mounts":[{"at":"/","files":1}]}', '{"mount":"constructor"}'],
      ':2: found mount "constructor", which does not exist; seal again.',
    ],
    ["names a file twice", () => [...good.slice(0, -1), good[1]!], "a second time; seal again."],
    ["is of another form", change(0, '"seal":1', '"seal":2'), "this is not a seal file"],
    [
      "was cut",
      () => good.slice(0, 4),
      "found 3 files, but its first line says 10; it is incomplete or was changed: seal again.",
    ],
    [
      "was cut within a line",
      () => [...good.slice(0, -1), good.at(-1)!.slice(0, 20)],
      ":11: this is not JSON; it is incomplete or was changed: seal again.",
    ],
    [
      "is of other mounts",
      change(0, '"at":"/"', '"at":"/other"'),
      "it was made for mounts at /other, but the configuration has mounts at /; seal again.",
    ],
    [
      "names a mount that is not there",
      change(1, '"mount":0', '"mount":1'),
      ":2: found mount 1, which does not exist; seal again.",
    ],
    [
      "names a path that is none",
      change(1, /"path":"[^"]*"/, '"path":"../x"'),
      ':2: found the invalid path "../x"; seal again.',
    ],
    ...["a//b", "./a", "a/..", "", "a\\\\b"].map((path): [string, () => string[], string] => [
      `names the path "${path}"`,
      change(1, /"path":"[^"]*"/, `"path":"${path}"`),
      ":2: found the invalid path ",
    ]),
    [
      "has a mount that is none",
      change(1, '"mount":0', '"mount":-1'),
      ":2: found mount -1, which does not exist; seal again.",
    ],
    [
      "has a mount that is no number",
      change(1, '"mount":0', '"mount":"0"'),
      ':2: found mount "0", which does not exist; seal again.',
    ],
    [
      "has a size that is no whole number",
      change(2, /"size":\d+/, '"size":1.5'),
      ":3: found the size 1.5; it is a number of bytes; seal again.",
    ],
    [
      "has a size that is none",
      change(2, /"size":\d+/, '"size":-1'),
      ":3: found the size -1; it is a number of bytes; seal again.",
    ],
    [
      "has a digest that is none",
      change(2, /sha-256=:[^:]*:/, "sha-256=:x:"),
      ':3: found the digest "sha-256=:x:"; it is written sha-256=:…:; seal again.',
    ],
    [
      "has a time that is none",
      change(2, /"modified":"[^"]*"/, '"modified":"late"'),
      ':3: found the invalid time "late"; seal again.',
    ],
    [
      "has a number for its time",
      change(2, /"modified":"[^"]*"/, '"modified":5'),
      ":3: found the invalid time 5; seal again.",
    ],
    [
      "has a line that is no object",
      () => [good[0]!, "3", ...good.slice(2)],
      ":2: found no object; seal again.",
    ],
  ])("%s", async (_, lines, words) => {
    writeFileSync(at("bad.jsonl"), `${lines().join("\n")}\n`);
    await expect(openSite(config("site"), { seal: at("bad.jsonl") })).rejects.toThrow(words);
  });

  test("is not there, or is a folder; one that cannot be written; an option that there is not", async () => {
    await expect(openSite(config("site"), { seal: at("none.jsonl") })).rejects.toThrow(
      "there is no such seal file; write it with epistyle seal.",
    );
    await expect(openSite(config("site"), { seal: at("site") })).rejects.toThrow(
      "this is a folder; write the folder to serve before --seal.",
    );
    await expect(writeSeal(config("site"), at("none/x.jsonl"))).rejects.toThrow(
      /^The seal file .* cannot be written \(ENOENT\); name a file in a folder that you can write to\.$/,
    );
    await expect(openSite(config("site"), { sael: true } as never)).rejects.toThrow(/sael/);
  });
});

test("others are answered while a folder is sealed: not after so many files, but after so much work", async () => {
  const files = Object.fromEntries(Array.from({ length: 40 }, (_, index) => [`${index}.txt`, "larkholm"]));
  const plain = memorySource(files);
  // Each file takes some milliseconds, as large ones do.
  const slow: FileSource = {
    ...plain,
    async open(path) {
      const found = await plain.open(path);
      if (found.kind !== "file") return found;
      const read = async (...given: Parameters<typeof found.file.read>) => {
        const until = process.hrtime.bigint() + 3_000_000n;
        while (process.hrtime.bigint() < until);
        return found.file.read(...given);
      };
      return {
        ...found,
        file: {
          metadata: found.file.metadata,
          read,
          digest: () => found.file.digest(),
          close: () => found.file.close(),
        },
      };
    },
  };
  const { compiled } = await compileSite({ mounts: [{ source: slow }] }, {});
  let pauses = 0;
  const { folder } = await takeSeal(compiled.mounts.values()[0]!, async () => void pauses++);
  expect([folder.files.size, pauses >= 15]).toEqual([40, true]);
});
