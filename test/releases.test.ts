import { renameSync, rmdirSync, symlinkSync, utimesSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readPlan } from "../src/adapters/in-process.js";
import { nodeHandler } from "../src/adapters/node.js";
import {
  type Answer,
  memorySource,
  openReloadable,
  openSite,
  type ResponsePlan,
  type Site,
  type SiteConfig,
  SiteError,
} from "../src/index.js";
import { EarlierFolders } from "../src/sources/earlier-folders.js";
import { type Answered, makeTemporaryTree, openProbe, type TemporaryTree } from "../src/testing/index.js";

// Pages that were loaded before a release was exchanged go on asking for the files that belong to it.
const bundle = (name: string): string => `assets/app-${name}.js`;
const OLD = "5f3a91bc";
const NEW = "77aa91bd";
const page = (name: string): string =>
  `<!doctype html><title>Larkholm</title><script type="module" src="/${bundle(name)}"></script>`;
const LONG = "export const birds = 'heron curlew tern';\n".repeat(60);

let tree: TemporaryTree;
beforeAll(async () => {
  tree = await makeTemporaryTree({
    "releases/1/index.html": page(OLD),
    [`releases/1/${bundle(OLD)}`]: `// one\n${LONG}`,
    [`releases/1/${bundle(OLD)}.br`]: "its own coded form",
    "releases/1/old-5f3a91bc.html": "an old page",
    "releases/1/old-5f3a91bc.htm": "an old page",
    "releases/1/page.html-5f3a91bc.js": "// of a page",
    "releases/1/plain.js": "no fingerprint",
    "releases/1/private/key-5f3a91bc.js": "secret",
    "releases/1/link-5f3a91bc.js": { link: "private/key-5f3a91bc.js" },
    "releases/0/assets/app-0a1b2c3d.js": "// nought",
    [`releases/0/${bundle(OLD)}`]: "// nought, and older",
    "releases/2/index.html": page(NEW),
    [`releases/2/${bundle(NEW)}`]: `// two\n${LONG}`,
    "releases/.next/assets/hid-5f3a91bc.js": "not deployed yet",
    current: { link: "releases/2" },
    "source.txt": "x",
  });
  for (const [days, name] of [
    [30, "0"],
    [3, "1"],
    [0, "2"],
  ] as const) {
    const at = Date.now() / 1000 - days * 86_400;
    utimesSync(join(tree.folder, "releases", name), at, at);
  }
});
afterAll(() => tree.close());

type Earlier = NonNullable<SiteConfig["mounts"][number]["earlierReleases"]>;
const open = (earlierReleases: Earlier, more: object = {}, seal: boolean = false): Promise<Site> =>
  openSite(
    {
      base: tree.folder,
      mounts: [
        {
          folder: "current",
          kind: "app",
          withheld: ["private"],
          codings: { prebuilt: ["br"] },
          earlierReleases,
          ...more,
        },
      ],
    },
    { seal },
  );
const PATTERN = { folders: "releases/*" };

describe.each<[string, Earlier, boolean]>([
  ["a list of folders", ["releases/1", "releases/0"], false],
  ["a pattern", PATTERN, false],
  ["a list, sealed", ["releases/1", "releases/0"], true],
  ["a pattern, sealed", PATTERN, true],
])("%s", (_how, earlier, seal) => {
  let ask: (path: string, headers?: Record<string, string>) => Promise<Answered>;
  beforeAll(async () => {
    const probe = await openProbe(await open(earlier, {}, seal));
    ask = (path, headers) => probe.get(path, headers);
  });

  test("the newest release that has a bundle answers for it, by the same rules", async () => {
    const got = await ask(`/${bundle(OLD)}`);
    expect([got.status, got.text?.slice(0, 6), got.headers["cache-control"], got.mediaType, got.why]).toEqual(
      [
        200,
        "// one",
        // Two releases have other bytes under it.
        "no-cache",
        "text/javascript",
        "only the earlier release releases/1 has it",
      ],
    );
    const oldest = await ask("/assets/app-0a1b2c3d.js");
    expect([oldest.why, oldest.headers["cache-control"]]).toEqual([
      "only the earlier release releases/0 has it",
      "public, max-age=31536000, immutable",
    ]);
    expect((await ask("/page.html-5f3a91bc.js")).why).toBe("only the earlier release releases/1 has it");
    expect((await ask(`/${bundle(NEW)}`)).why).toBe("the file of that name");
    const again = await ask(`/${bundle(OLD)}`, { "If-None-Match": got.headers.etag! });
    expect([again.status, (await ask(`/${bundle(OLD)}`, { Range: "bytes=0-5" })).text]).toEqual([
      304,
      "// one",
    ]);
    // What belongs to a file comes from its own release.
    expect((await ask(`/${bundle(OLD)}`, { "Accept-Encoding": "br" })).headers["content-encoding"]).toBe(
      "br",
    );
  });

  test.each<[string, string]>([
    ["a page, whatever it is called", "/old-5f3a91bc.html"],
    ["a page with a short extension", "/old-5f3a91bc.htm"],
    ["a name that stands for no content", "/plain.js"],
    ["what is withheld", "/private/key-5f3a91bc.js"],
    ["a link to what is withheld", "/link-5f3a91bc.js"],
    ["what no release has", "/assets/app-99ff99ff.js"],
    ["a folder that is hidden", "/assets/hid-5f3a91bc.js"],
  ])("never %s", async (_what, path) => {
    expect((await ask(path, { Accept: "*/*" })).status).toBe(404);
  });
});

test("how many, and how old", async () => {
  const status = async (earlier: Earlier): Promise<number[]> => {
    const probe = await openProbe(await open(earlier));
    return [(await probe.get(`/${bundle(OLD)}`)).status, (await probe.get("/assets/app-0a1b2c3d.js")).status];
  };
  // The release that is served is the newest of the pattern.
  expect(await status({ ...PATTERN, keep: 2 })).toEqual([200, 404]);
  expect(await status({ ...PATTERN, within: "7d" })).toEqual([200, 404]);
  expect(await status({ ...PATTERN, within: "1d" })).toEqual([404, 404]);
  expect(await status({ folders: join(tree.folder, "releases/*") })).toEqual([200, 200]);
});

test("the folders of a pattern: the newest first, the later name of equal times; listed again after a while; a source lives while its folder does", async () => {
  await using disk = await makeTemporaryTree({
    "r/a/x": "",
    "r/b/x": "",
    "r/c/x": "",
    "r/d/x": "",
    "r/other/x": "",
    "r/file": "",
  });
  const set = (name: string, seconds: number): void =>
    utimesSync(join(disk.folder, "r", name), seconds, seconds);
  for (const [name, seconds] of [
    ["a", 5000],
    ["b", 7000],
    ["c", 7000],
    ["d", 1000],
    ["other", 9000],
  ] as const)
    set(name, seconds);
  let now = 8_000_000;
  const options = {
    parent: join(disk.folder, "r"),
    shownParent: "r/",
    matches: (name: string) => /^(?:[a-e]|file)$/.test(name),
    links: "inside" as const,
    now: () => now,
  };
  const names = async (earlier: EarlierFolders): Promise<string> =>
    (await earlier.list()).map(({ name }) => name).join(" ");
  const all = new EarlierFolders({ ...options, keep: 9, withinMs: 7_000_000 });
  expect([
    await names(all),
    await names(new EarlierFolders({ ...options, keep: 2, withinMs: 3_000_000 })),
    await names(new EarlierFolders({ ...options, keep: 9, withinMs: 3_000_000 })),
    await names(new EarlierFolders({ ...options, keep: 9, withinMs: 2_999_999 })),
  ]).toEqual(["r/c r/b r/a r/d", "r/c r/b", "r/c r/b r/a", "r/c r/b"]);
  const [first] = await all.list();
  await disk.write({ "r/e/x": "" });
  set("e", 7500);
  expect(await names(all)).toBe("r/c r/b r/a r/d");
  now += 60_000;
  expect([await names(all), (await all.list())[1] === first, (await all.listNow())[1] === first]).toEqual([
    "r/e r/c r/b r/a",
    true,
    true,
  ]);
  await disk.remove("r/c/x");
  rmdirSync(join(disk.folder, "r/c"));
  await all.listNow();
  await disk.write({ "r/c/x": "" });
  set("c", 7000);
  expect([
    await names(all).then((told) => told.includes("r/c")),
    (await all.listNow())[1]!.name,
    (await all.listNow())[1] === first,
  ]).toEqual([false, "r/c", false]);
  expect(
    await names(new EarlierFolders({ ...options, parent: join(disk.folder, "none"), keep: 9, withinMs: 1 })),
  ).toBe("");
});

test("a source per release, and steps that name the release", async () => {
  const older = memorySource({ [bundle(OLD)]: "// one" });
  const site = await openSite({
    mounts: [{ at: "/app", source: memorySource({ "index.html": page(NEW) }), earlierReleases: [older] }],
  });
  const probe = await openProbe(site);
  expect((await probe.get(`/app/${bundle(OLD)}`)).text).toBe("// one");
  const live = await (await open(PATTERN)).explain({
    method: "GET",
    target: `/${bundle(OLD)}`,
    headers: { "accept-encoding": "br" },
  });
  expect(
    live.trace.flatMap((step) =>
      step.stage === "candidate" ? [`${step.role}: ${step.path}, ${step.found}`] : [],
    ),
  ).toEqual([
    `exact file: ${bundle(OLD)}, absent`,
    `earlier release: releases/2/${bundle(OLD)}, absent`,
    `earlier release: releases/1/${bundle(OLD)}, file`,
    `prebuilt coding: ${bundle(OLD)}.br, file`,
  ]);
});

test.each<[string, Earlier, RegExp]>([
  [
    "the last name has a slash",
    { folders: "releases/*/" },
    /earlierReleases\.folders: found "releases\/\*\/"; the last name is the pattern: write it as "\.\.\/builds\/\*"\./,
  ],
  ["a star in the middle", { folders: "*/assets" }, /only the last name has a star/],
  ["too many", { ...PATTERN, keep: 50 }, /write 20 or less/],
  ["an invalid time", { ...PATTERN, within: "a while" }, /a duration is seconds, or a number with a unit/],
  ["a text for a list", "releases/1" as unknown as Earlier, /a list is needed here: write \["releases\/1"\]/],
])("%s is an error with what to write", async (_what, earlier, message) => {
  await expect(open(earlier)).rejects.toThrow(message);
});

test("what the start has to say: a release that is not there, and other bytes under a name that promises the same", async () => {
  expect((await open(["releases/1", "releases/9"])).warnings).toContainEqual(
    expect.stringMatching(/^mounts\[0\]\.earlierReleases\[1\]: found "releases\/9", which does not exist/),
  );
  await tree.write({ "twins/assets/app-77aa91bd.js": "// another two" });
  const { warnings } = await open(["twins"]);
  await using disk = await makeTemporaryTree({
    "now/index.html": page(NEW),
    "now/same-5f3a91bc.js": "one",
    "now/other-5f3a91bc.js": "one",
    "now/third-5f3a91bc.js": "one",
    "now/plain.js": "one",
    "now/dir-5f3a91bc.js/x": "one",
    "then/same-5f3a91bc.js": "one",
    "then/other-5f3a91bc.js": "two",
    "then/third-5f3a91bc.js": "three",
    "then/plain.js": "two",
    "then/dir-5f3a91bc.js": "two",
  });
  const beside = await openSite({
    base: disk.folder,
    mounts: [{ folder: "now", earlierReleases: { folders: "*" } }],
  });
  await expect
    .poll(() => beside.warnings)
    .toContainEqual(
      expect.stringMatching(
        /^The mount at \/: other-5f3a91bc\.js and 1 more has other bytes in the earlier release then, /,
      ),
    );
  await expect
    .poll(() => warnings)
    .toContainEqual(
      `The mount at /: ${bundle(NEW)} has other bytes in the earlier release twins, although its name has a fingerprint, so that it is revalidated; let the build make the name from the content, or remove the old file.`,
    );
});

test("2,000 loads while releases are exchanged 80 times: no page is without its bundle", async () => {
  await using disk = await makeTemporaryTree({ "releases/": "" });
  const deploy = async (turn: number): Promise<void> => {
    const name = (0x1a2b0000 + turn).toString(16);
    await disk.write({
      [`releases/${turn}/index.html`]: page(name),
      [`releases/${turn}/${bundle(name)}`]: `// ${name}`,
    });
    symlinkSync(`releases/${turn}`, join(disk.folder, "next"));
    renameSync(join(disk.folder, "next"), join(disk.folder, "current"));
  };
  await deploy(0);
  const site = await openSite({
    base: disk.folder,
    mounts: [{ folder: "current", kind: "app", earlierReleases: { folders: "releases/*", keep: 5 } }],
  });
  const probe = await openProbe(site);
  let [loads, turn] = [0, 0];
  const failed: string[] = [];
  const visit = async (): Promise<void> => {
    while (loads < 2000) {
      const mine = ++loads;
      const wanted = /src="([^"]+)"/.exec((await probe.get("/")).text ?? "")?.[1] ?? "/none";
      // Some open the page and come back to it later.
      if (mine % 3 === 0) await new Promise((done) => setImmediate(done));
      const { status, text, why } = await probe.get(wanted);
      if (status !== 200 || !wanted.includes(text!.slice(3))) failed.push(`${wanted}: ${status} ${why}`);
    }
  };
  const exchange = async (): Promise<void> => {
    while (turn < 80) {
      await deploy(++turn);
      while (loads < turn * 25 && loads < 2000) await new Promise((done) => setImmediate(done));
    }
  };
  await Promise.all([exchange(), visit(), visit(), visit(), visit()]);
  expect([loads >= 2000, turn, failed]).toEqual([true, 80, []]);
});

test("a site that is opened anew answers from the new one; answers under way, routes and failures", async () => {
  let [tree, fails] = [{ "index.html": "one", "file.txt": "one" } as Record<string, string>, false];
  const site = await openReloadable(async () => {
    if (fails) throw new SiteError(["mounts[0]: it cannot be opened."]);
    return openSite({ mounts: [{ source: memorySource(tree) }] });
  });
  const probe = await openProbe(site);
  const route = site.file("/file.txt");
  const text = async (answer: Promise<Answer>): Promise<string> =>
    Buffer.from(await readPlan((await answer) as ResponsePlan)).toString();
  const request = { method: "GET", target: "/", headers: {} };
  const underWay = await site.respond(request);
  tree = { "index.html": "two", "file.txt": "two" };
  await site.reload();
  const files: string[] = [];
  for await (const { path } of site.files()) files.push(path);
  expect(files.toSorted()).toEqual(["/", "/file.txt", "/index.html"]);
  expect([
    await site.respondFailed(request, "gone"),
    await route.respondFailed(request, "gone"),
  ]).toMatchObject([{ status: 500 }, { status: 500 }]);
  expect([
    await text(Promise.resolve(underWay)),
    (await probe.get("/")).text,
    await text(route.respond(request)),
  ]).toEqual(["one", "two", "two"]);
  // What is kept is kept of the site that is in use.
  const server = createServer(nodeHandler(site));
  await new Promise<void>((done) => void server.listen(0, "127.0.0.1", done));
  const fetched = async (): Promise<string> =>
    (await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`)).text();
  const kept = (): number | undefined =>
    site.memory.metrics().find(({ name }) => name === "answers kept with their bytes")?.entries;
  expect([await fetched(), await fetched(), await fetched(), kept()]).toEqual(["two", "two", "two", 1]);
  tree = { "index.html": "two and a half" };
  await site.reload();
  expect([kept(), await fetched(), await fetched(), await fetched(), kept()]).toEqual([
    0,
    "two and a half",
    "two and a half",
    "two and a half",
    1,
  ]);
  server.close().closeAllConnections();
  fails = true;
  await expect(site.reload()).rejects.toThrow("mounts[0]: it cannot be opened.");
  expect((await probe.get("/")).text).toBe("two and a half");
  fails = false;
  tree = { "index.html": "three" };
  await Promise.all([site.reload(), site.reload()]);
  expect([
    (await probe.get("/")).text,
    (await route.respond(request)).kind === "response" &&
      (await text(route.respond(request))).includes("404"),
  ]).toEqual(["three", true]);
  await expect(openReloadable(site as unknown as () => Promise<Site>)).rejects.toThrow(
    "openReloadable: found no function; write openReloadable(() => openSite({ … })).",
  );
});

test("an answer that is kept gives way when the release itself has the file, or the earlier one is gone", async () => {
  await using disk = await makeTemporaryTree({
    "now/index.html": page(NEW),
    [`then/${bundle(OLD)}`]: "// then",
  });
  const probe = await openProbe(
    await openSite({ base: disk.folder, mounts: [{ folder: "now", earlierReleases: ["then"] }] }),
  );
  const texts = async (): Promise<unknown[]> => [
    (await probe.get(`/${bundle(OLD)}`)).text,
    (await probe.get(`/${bundle(OLD)}`)).status,
  ];
  expect(await texts()).toEqual(["// then", 200]);
  await disk.write({ [`now/${bundle(OLD)}`]: "// now" });
  expect(await texts()).toEqual(["// now", 200]);
  await disk.remove(`now/${bundle(OLD)}`);
  await disk.remove(`then/${bundle(OLD)}`);
  expect((await texts())[1]).toBe(404);
  await disk.write({ [`then/${bundle(OLD)}`]: "// then, again" });
  expect(await texts()).toEqual(["// then, again", 200]);
  // One that comes back as a whole.
  const grown = await openProbe(
    await openSite({
      base: disk.folder,
      mounts: [{ folder: "now", earlierReleases: { folders: "kept/*" } }],
    }),
  );
  for (const _ of [1, 2, 3]) expect((await grown.get(`/${bundle(OLD)}`)).status).toBe(404);
  await disk.write({ [`kept/1/${bundle(OLD)}`]: "// kept" });
  expect((await grown.get(`/${bundle(OLD)}`)).text).toBe("// kept");
});

test("links are followed in earlier releases as in the mount; a pattern needs a place, and warns of nothing by itself", async () => {
  await using disk = await makeTemporaryTree({
    "now/index.html": page(NEW),
    "then/file.js": "// then",
    [`then/${bundle(OLD)}`]: { link: "../file.js" },
    [`then/${bundle(NEW)}`]: "// new",
  });
  const status = async (
    links: "inside" | "none",
    earlierReleases: SiteConfig["mounts"][number]["earlierReleases"],
  ): Promise<number[]> => {
    const site = await openSite({ base: disk.folder, mounts: [{ folder: "now", links, earlierReleases }] });
    expect(site.warnings).toEqual([]);
    const probe = await openProbe(site);
    return [(await probe.get(`/${bundle(OLD)}`)).status, (await probe.get(`/${bundle(NEW)}`)).status];
  };
  for (const earlier of [["then"], { folders: "./*" }, { folders: "*" }]) {
    expect(await status("inside", earlier)).toEqual([200, 200]);
    expect(await status("none", earlier)).toEqual([404, 200]);
  }
  const source = memorySource({ "index.html": page(NEW) });
  await expect(openSite({ mounts: [{ source, earlierReleases: { folders: "then/*" } }] })).rejects.toThrow(
    'mounts[0].earlierReleases.folders: found "then/*", but it is unknown what it is relative to; write base: import.meta.url (in CommonJS, base: __dirname) beside mounts.',
  );
});
