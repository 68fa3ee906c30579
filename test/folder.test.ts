import { execFileSync } from "node:child_process";
import {
  appendFileSync,
  readdirSync,
  renameSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { brotliCompressSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { releasePlan, type Site } from "../src/index.js";
import { isPortableName } from "../src/sources/portable-name.js";
import { openSite } from "./counting-source.js";
import { ask, asNobody, canBeNobody, makeTree } from "./helpers.js";

const openDescriptors = (): number => readdirSync("/proc/self/fd").length;

describe("a folder on disk", () => {
  let outer: Awaited<ReturnType<typeof makeTree>>;
  let root: string;
  const sites: Record<string, Site> = {};

  beforeAll(async () => {
    outer = await makeTree({
      "outside/secret.txt": "secret",
      "site/index.html": "home",
      "site/plain.txt": "plain",
      "site/sub/a.txt": "a",
      "site/.env": "secret",
      "site/drafts/d.txt": "draft",
      "site/locked.txt": "locked",
      "site/vault/a.txt": "vault",
      "site/ à la fin .txt": "blanks",
      "site/line\nbreak.txt": "newline",
      "site/in.txt": { link: "plain.txt" },
      "site/in-folder": { link: "sub" },
      "site/out.txt": { link: "../outside/secret.txt" },
      "site/out-folder": { link: "../outside" },
      "site/absolute.txt": { link: "/etc/passwd" },
      "site/to-env.txt": { link: ".env" },
      "site/to-drafts": { link: "drafts" },
      "site/broken": { link: "nowhere" },
      "site/loop": { link: "loop" },
      "site/README.md": "readme",
      [`site/${"deep/".repeat(60)}a.txt`]: "a",
      "site/Readme.md": { link: "README.md" },
      "site/Sub": { link: "sub" },
    });
    root = join(outer.root, "site");
    execFileSync("mkfifo", [join(root, "pipe")]);
    await outer.forbid("site/locked.txt", "site/vault");
    for (const links of ["inside", "none", "anywhere"] as const) {
      sites[links] = await openSite({ mounts: [{ folder: root, links, withheld: ["drafts"] }] });
    }
  });
  afterAll(() => outer.remove());

  test.each([
    ["a file", "/plain.txt", "200 plain.txt", "200 plain.txt", "200 plain.txt"],
    [
      "blanks at the ends of a name",
      "/%20%C3%A0%20la%20fin%20.txt",
      "200  à la fin .txt",
      "200  à la fin .txt",
      "200  à la fin .txt",
    ],
    [
      "a newline in a name",
      "/line%0Abreak.txt",
      "200 line\nbreak.txt",
      "200 line\nbreak.txt",
      "200 line\nbreak.txt",
    ],
    ["a link inside", "/in.txt", "200 in.txt", "404 link-not-followed", "200 in.txt"],
    [
      "below a linked folder",
      "/in-folder/a.txt",
      "200 in-folder/a.txt",
      "404 link-not-followed",
      "200 in-folder/a.txt",
    ],
    [
      "a link whose name differs from what it leads to in case alone",
      "/Readme.md",
      "200 Readme.md",
      "404 link-not-followed",
      "200 Readme.md",
    ],
    ["below such a link", "/Sub/a.txt", "200 Sub/a.txt", "404 link-not-followed", "200 Sub/a.txt"],
    ["a link that leads out", "/out.txt", "404 link-leads-outside", "404 link-leads-outside", "200 out.txt"],
    [
      "below a folder's link that leads out",
      "/out-folder/secret.txt",
      "404 link-leads-outside",
      "404 link-leads-outside",
      "200 out-folder/secret.txt",
    ],
    [
      "a folder's link that leads out, itself",
      "/out-folder",
      "404 link-leads-outside",
      "404 link-leads-outside",
      "403 no-default-document",
    ],
    [
      "a link to the system's files",
      "/absolute.txt",
      "404 link-leads-outside",
      "404 link-leads-outside",
      "200 absolute.txt",
    ],
    ["a link to a dot-file", "/to-env.txt", "404 withheld", "404 link-not-followed", "404 withheld"],
    [
      "a link to a withheld folder",
      "/to-drafts/d.txt",
      "404 withheld",
      "404 link-not-followed",
      "404 withheld",
    ],
    ["a broken link", "/broken", "404 no-such-file", "404 no-such-file", "404 no-such-file"],
    ["links in a circle", "/loop", "404 link-loop", "404 link-loop", "404 link-loop"],
    [
      "a pipe is not opened for reading and does not hang",
      "/pipe",
      "404 special",
      "404 special",
      "404 special",
    ],
    ["below a file", "/plain.txt/x", "404 not-a-directory", "404 not-a-directory", "404 not-a-directory"],
    ["a name longer than any", `/${"x".repeat(300)}`, "404 too-long", "404 too-long", "404 too-long"],
    [
      "a name longer than any, above others",
      `/${"x".repeat(256)}/a`,
      "404 too-long",
      "404 too-long",
      "404 too-long",
    ],
    [
      "a name as long as the longest",
      `/${"x".repeat(255)}`,
      "404 no-such-file",
      "404 no-such-file",
      "404 no-such-file",
    ],
    [
      "a name as long as the longest, above others",
      `/${"x".repeat(255)}/a`,
      "404 no-such-file",
      "404 no-such-file",
      "404 no-such-file",
    ],
    [
      "a name as long as the longest, below others",
      `/deep/${"x".repeat(255)}`,
      "404 no-such-file",
      "404 no-such-file",
      "404 no-such-file",
    ],
    [
      "a name longer than any, below others",
      `/deep/${"x".repeat(256)}`,
      "404 too-long",
      "404 too-long",
      "404 too-long",
    ],
    [
      "a path of short names that is longer than a name may be",
      `/${"deep/".repeat(60)}a.txt`,
      `200 ${"deep/".repeat(60)}a.txt`,
      `200 ${"deep/".repeat(60)}a.txt`,
      `200 ${"deep/".repeat(60)}a.txt`,
    ],
    ["a path longer than any", `/${"x/".repeat(2100)}x`, "404 too-long", "404 too-long", "404 too-long"],
  ])("%s", async (_sentence, path, inside, none, anywhere) => {
    for (const [links, expected] of Object.entries({ inside, none, anywhere })) {
      // The second time it is known already.
      for (const _ of [1, 2])
        expect(`${links}: ${(await ask(sites[links]!, `GET ${path}`)).summary}`).toBe(
          `${links}: ${expected}`,
        );
    }
  });

  test.runIf(canBeNobody)(
    "what this process may not read is forbidden; what it may not look into too",
    async () => {
      await asNobody(async () => {
        expect((await ask(sites.inside!, "GET /locked.txt")).summary).toBe("403 no-permission");
        expect((await ask(sites.inside!, "GET /vault/a.txt")).summary).toBe("403 no-permission");
      });
    },
  );

  test("withheld and missing are the same, byte for byte", async () => {
    const [withheld, missing] = [
      await ask(sites.inside!, "GET /.env"),
      await ask(sites.inside!, "GET /nope"),
    ];
    expect({ ...withheld, summary: "", answer: "" }).toEqual({ ...missing, summary: "", answer: "" });
  });

  test("nothing stays open: answers of every kind, and plans that are let go", async () => {
    const before = openDescriptors();
    for (const path of [
      "/",
      "/plain.txt",
      "/sub",
      "/sub/",
      "/out.txt",
      "/to-env.txt",
      "/nope",
      "/pipe",
      "/vault/",
    ]) {
      for (const method of ["GET", "HEAD"]) await ask(sites.inside!, `${method} ${path}`);
      await ask(sites.inside!, `GET ${path}`, { "if-none-match": "*" });
      await sites
        .inside!.explain({ method: "GET", target: path, headers: {} }, { keepBody: true })
        .then(({ answer }) => releasePlan(answer));
    }
    expect(openDescriptors()).toBe(before);
  });

  test("changes show at once", async () => {
    const site = sites.inside!;
    const file = join(root, "changing.txt");
    const get = async (): Promise<string> => {
      const { summary, body, fields } = await ask(site, "GET /changing.txt");
      return `${summary} ${body} ${fields["content-length"]}`;
    };
    expect((await ask(site, "GET /changing.txt")).summary).toBe("404 no-such-file");
    writeFileSync(file, "one");
    expect(await get()).toBe("200 changing.txt one 3");
    appendFileSync(file, " two");
    expect(await get()).toBe("200 changing.txt one two 7");
    renameSync(join(root, "in.txt"), file);
    expect(await get()).toBe("200 changing.txt plain 5");
    rmSync(file);
    symlinkSync("../outside/secret.txt", file);
    expect((await ask(site, "GET /changing.txt")).summary).toBe("404 link-leads-outside");
    rmSync(file);
    expect((await ask(site, "GET /changing.txt")).summary).toBe("404 no-such-file");
  });

  test.each<[string, string, string]>([
    ["out of the folder", "outside/guide", "404 link-leads-outside"],
    ["under a name that is withheld", "site/drafts/guide", "404 withheld"],
  ])(
    "a folder that is moved %s, with a link in its place, is not answered from memory; put back, it is answered",
    async (_where, to, refusal) => {
      const tree = await makeTree({
        "site/guide/index.html": "guide",
        "site/guide/a.txt": "a",
        "site/drafts/x": "x",
        "outside/x": "x",
      });
      const own = await openSite({ mounts: [{ folder: join(tree.root, "site"), withheld: ["drafts"] }] });
      const told = async () => [
        (await ask(own, "GET /guide/")).summary,
        (await ask(own, "GET /guide/a.txt")).summary,
      ];
      const first = await ask(own, "GET /guide/a.txt");
      expect(await told()).toEqual(["200 guide/index.html", "200 guide/a.txt"]);
      const [inside, moved] = [join(tree.root, "site/guide"), join(tree.root, to)];
      renameSync(inside, moved);
      symlinkSync(moved, inside);
      await wait(1050);
      for (const _ of [1, 2]) expect(await told()).toEqual([refusal, refusal]);
      rmSync(inside);
      renameSync(moved, inside);
      for (const _ of [1, 2]) expect(await told()).toEqual(["200 guide/index.html", "200 guide/a.txt"]);
      expect((await ask(own, "GET /guide/a.txt")).fields.etag).toBe(first.fields.etag);
      await tree.remove();
    },
  );

  test("a root that is a link is switched while it is asked: each request sees one release, and nothing that both have is missing", async () => {
    const release = (name: string) => ({
      [`${name}/index.html`]: name,
      [`${name}/index.html.br`]: brotliCompressSync(name),
      [`${name}/same.txt`]: name,
      [`${name}/list/${name}.txt`]: name,
    });
    const tree = await makeTree({ ...release("one"), ...release("two"), current: { link: "one" } });
    const own = await openSite({
      mounts: [{ folder: join(tree.root, "current"), listing: true, codings: { prebuilt: ["br"] } }],
    });
    let turn = 0;
    const exchange = setInterval(() => {
      symlinkSync(turn++ % 2 === 0 ? "two" : "one", join(tree.root, "next"));
      renameSync(join(tree.root, "next"), join(tree.root, "current"));
    }, 0);
    const told = new Set<string>();
    for (let i = 0; i < 100_000 && turn < 150; i++) {
      const [page, same, list] = await Promise.all([
        ask(own, "GET /", { "accept-encoding": "br" }),
        ask(own, "GET /same.txt"),
        ask(own, "GET /list/", { accept: "text/plain" }),
      ]);
      told.add(page.summary).add(`${same.summary} ${same.body}`).add(`${list.summary} ${list.body}`);
    }
    clearInterval(exchange);
    expect([...told].sort()).toEqual([
      "200 index.html",
      "200 listing one.txt\n",
      "200 listing two.txt\n",
      "200 same.txt one",
      "200 same.txt two",
    ]);
    // After a rollback, and with the link gone for a moment.
    for (const to of ["one", "two", "one"]) {
      rmSync(join(tree.root, "current"));
      expect((await ask(own, "GET /same.txt")).summary).toBe("404 no-such-file");
      symlinkSync(to, join(tree.root, "current"));
      expect((await ask(own, "GET /same.txt")).body).toBe(to);
    }
    await tree.remove();
  });

  test("a folder that was moved out, and is put back, answers again: a refusal is not remembered, and no list shows in its place", async () => {
    const tree = await makeTree({ "site/guide/index.html": "guide", "outside/x": "x" });
    const own = await openSite({ mounts: [{ folder: join(tree.root, "site"), listing: true }] });
    const [inside, outside] = [join(tree.root, "site/guide"), join(tree.root, "outside/guide")];
    renameSync(inside, outside);
    symlinkSync(outside, inside);
    for (const _ of [1, 2]) expect((await ask(own, "GET /guide/")).summary).toBe("404 link-leads-outside");
    rmSync(inside);
    renameSync(outside, inside);
    for (const _ of [1, 2]) expect((await ask(own, "GET /guide/")).summary).toBe("200 guide/index.html");
    await tree.remove();
  });

  test("a file that is exchanged again and again while it is asked for is never missing", async () => {
    const file = join(root, "deployed.txt");
    writeFileSync(file, "v0");
    let turn = 0;
    const exchange = setInterval(() => {
      writeFileSync(`${file}.next`, `v${++turn}`);
      renameSync(`${file}.next`, file);
    }, 0);
    const summaries = new Set<string>();
    for (let i = 0; i < 50_000 && turn < 60; i++) {
      summaries.add((await ask(sites.inside!, "GET /deployed.txt")).summary);
      // Answers that wait for nothing would never let the other side have its turn.
      await new Promise(setImmediate);
    }
    clearInterval(exchange);
    expect([[...summaries], turn >= 60]).toEqual([["200 deployed.txt"], true]);
  });

  test("a rewrite within the same second, of the same size, changes the tag", async () => {
    const file = join(root, "same.txt");
    writeFileSync(file, "aaaa");
    utimesSync(file, 1_790_000_000.25, 1_790_000_000.25);
    const first = (await ask(sites.inside!, "GET /same.txt")).fields;
    writeFileSync(file, "bbbb");
    utimesSync(file, 1_790_000_000.75, 1_790_000_000.75);
    const second = await ask(sites.inside!, "GET /same.txt", { "if-none-match": first.etag! });
    expect(second.fields["last-modified"]).toBe(first["last-modified"]);
    expect(second.summary).toBe("200 same.txt");
  });

  test("RFC 9110 §8.8.2.1 a date in the future is not told", async () => {
    const file = join(root, "future.txt");
    writeFileSync(file, "later");
    utimesSync(file, 4_000_000_000, 4_000_000_000);
    const { fields } = await ask(sites.inside!, "GET /future.txt");
    expect(Date.parse(fields["last-modified"]!)).toBeLessThanOrEqual(Date.now());
  });
});

test("names that Windows would read as something else", () => {
  const misread = [
    "nul",
    "NUL.txt",
    "a/con",
    "com1.log",
    "LPT9",
    "a.txt:stream",
    "a.txt.",
    "a ",
    "a?b",
    "aux .txt",
    "con.tar.gz",
    "com1",
    "COM¹.a",
    "lpt9 .x",
    "conin$",
    "a\u0001",
    "x/aux/y",
    "a. /b",
  ];
  const fine = [
    "index.html",
    "null.txt",
    "console",
    "a/b.c",
    "com10",
    "com",
    "lpt",
    "x/prn-a",
    "a b.txt",
    ".env",
  ];
  expect(misread.filter(isPortableName)).toEqual([]);
  expect(fine.filter((name) => !isPortableName(name))).toEqual([]);
});
