import { rmSync, utimesSync } from "node:fs";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type FileSource, memorySource, openSite, type Site, type SiteConfig } from "../src/index.js";
import { surveySite } from "../src/survey/index.js";
import { makeTemporaryTree, openProbe, type TemporaryTree } from "../src/testing/index.js";

// What is known of names, asked of sites whose folders change.
const YEAR = "public, max-age=31536000, immutable";
const ODD = "assets/index-DVXNDFMC.js";
const ALIKE = Object.fromEntries(
  "Dct7elz_ BGHzbpMo DlQxmPfI DjX9hgGb"
    .split(" ")
    .map((digest, index) => [`assets/part${index}-${digest}.js`, "part"]),
);
const RULE: Partial<SiteConfig["mounts"][number]> = {
  caching: [{ files: "fingerprinted", policy: "immutable" }],
};

let tree: TemporaryTree;
let warned: string[];
const note = (warning: Error): void => void warned.push(warning.message);
beforeEach(async () => {
  tree = await makeTemporaryTree({});
  warned = [];
  process.on("warning", note);
});
afterEach(async () => {
  process.off("warning", note);
  await tree.close();
});

const open = (mount: Partial<SiteConfig["mounts"][number]> = {}, seal = false): Promise<Site> =>
  openSite({ base: tree.folder, mounts: [{ folder: "dist", ...RULE, ...mount }] }, { seal });

/** The lifetime of a path, and the clause that says how its name is known. */
async function ask(site: Site, path: string): Promise<[string | undefined, string | undefined]> {
  const { trace } = await site.explain({ method: "GET", target: `/${path}`, headers: {} });
  const line = trace.find((step) => step.stage === "field" && step.name === "Cache-Control");
  return line?.stage === "field" ? [line.value, line.because.split("; ").at(-1)] : [undefined, undefined];
}

describe("which knowledge it was", () => {
  test.each<
    [string, Record<string, string>, Partial<SiteConfig["mounts"][number]>, string, [string, RegExp]]
  >([
    [
      "the build's own list",
      { [ODD]: "1", "dist/.epistyle/fingerprints.txt": `# names\n${ODD}\n` },
      {},
      ODD,
      [YEAR, /^the build says so in \.epistyle\/fingerprints\.txt$/],
    ],
    [
      "Vite's manifest",
      { [ODD]: "1", "dist/.vite/manifest.json": JSON.stringify({ "main.js": { file: ODD, name: "index" } }) },
      {},
      ODD,
      [YEAR, /^the build says so in \.vite\/manifest\.json$/],
    ],
    [
      "a list that is named",
      { [ODD]: "1", "names.txt": ODD },
      { fingerprints: "names.txt" },
      ODD,
      [YEAR, /^the build says so in names\.txt$/],
    ],
    [
      "patterns",
      { "app/x1.js": "1" },
      { fingerprints: ["app/*.js"] },
      "app/x1.js",
      [YEAR, /^`fingerprints` in the configuration names it$/],
    ],
    [
      "the folder",
      { ...ALIKE, [ODD]: "1" },
      {},
      ODD,
      [YEAR, /^5 names of its folder end in "-" and 8 characters of base64url$/],
    ],
    [
      "the name alone",
      { "a-5f3a91bc7d2e4f60.png": "1" },
      {},
      "a-5f3a91bc7d2e4f60.png",
      [YEAR, /^its name leaves no doubt$/],
    ],
    ["a plain name", { "a.png": "1" }, {}, "a.png", ["no-cache", /does not end in a digest of the content/]],
    [
      "a lonely ending",
      { "photo-DVXNDFMC.jpg": "1" },
      {},
      "photo-DVXNDFMC.jpg",
      ["no-cache", /no other name of the folder ends like it/],
    ],
    [
      "a document, even if the build names it",
      { "page-5f3a91bc7d2e4f60.html": "1" },
      { fingerprints: ["page-*"] },
      "page-5f3a91bc7d2e4f60.html",
      ["no-cache", /^a document is never fingerprinted/],
    ],
    [
      "a name beside those that the build lists",
      {
        ...ALIKE,
        [ODD]: "1",
        "assets/photo-overcast.jpg": "1",
        "dist/.epistyle/fingerprints.txt": Object.keys(ALIKE).join("\n"),
      },
      {},
      "assets/photo-overcast.jpg",
      ["no-cache", /no other name of the folder/],
    ],
    [
      "a manifest of a build without fingerprints",
      {
        "assets/overview.js": "1",
        "dist/.vite/manifest.json": JSON.stringify({
          "a.js": { file: "assets/overview.js", name: "overview" },
          "b.js": { file: "assets/timeline.js", name: "timeline" },
        }),
      },
      {},
      "assets/overview.js",
      ["no-cache", /does not look fingerprinted/],
    ],
  ])("%s", async (_what, files, mount, path, [value, because]) => {
    const placed = Object.entries(files).map(([name, content]) => [
      /^(?:dist\/|names)/.test(name) ? name : `dist/${name}`,
      content,
    ]);
    await tree.write(Object.fromEntries(placed));
    for (const seal of [false, true]) {
      const [said, why] = await ask(await open(mount, seal), path);
      expect(said).toBe(value);
      if (!seal) expect(why).toMatch(because);
    }
  });

  test.each<[string, string, RegExp]>([
    [
      "no such list",
      "names.txt",
      /^mounts\[0\]\.fingerprints: found "names\.txt", which does not exist; name a file of lines such as "assets\/index-5f3a91bc\.js"\.$/,
    ],
    [
      "a manifest that is cut",
      "cut.json",
      /^mounts\[0\]\.fingerprints: found "cut\.json", which cannot be read: it is not JSON \(.*\); write a path a line, or name a manifest of Vite\.$/,
    ],
    ["JSON of another kind", "package.json", /it is no manifest of Vite: each of its entries has a file/],
    [
      "a pattern without brackets",
      "assets/*",
      /a single value is the path of a list; patterns stand in brackets: write \["assets\/\*"\]/,
    ],
  ])("%s is an error with what to write", async (_what, fingerprints, message) => {
    await tree.write({ "dist/a.js": "1", "cut.json": '{ "a": ', "package.json": '{ "name": "larkholm" }' });
    await expect(open({ fingerprints })).rejects.toThrow(message);
  });
});

describe("while the site is open", () => {
  // Knowledge is proved again each second.
  const later = (site: Site, path: string) => expect.poll(async () => (await ask(site, path))[0]);

  test("a build that fills a folder makes its odd names known, and what is taken away makes them unknown", async () => {
    await tree.write({ [`dist/${ODD}`]: "1" });
    const site = await open({ fingerprints: undefined });
    await tree.write({ "dist/assets/photo-DVXNDFMC.jpg": "1" });
    expect((await ask(site, "assets/photo-DVXNDFMC.jpg"))[0]).toBe("no-cache");
    await tree.write(
      Object.fromEntries(Object.entries(ALIKE).map(([path, content]) => [`dist/${path}`, content])),
    );
    await later(site, "assets/photo-DVXNDFMC.jpg").toBe(YEAR);
    for (const path of Object.keys(ALIKE)) rmSync(join(tree.folder, "dist", path));
    await later(site, "assets/photo-DVXNDFMC.jpg").toBe("no-cache");
    await tree.write({ "dist/.epistyle/fingerprints.txt": "assets/photo-DVXNDFMC.jpg\n" });
    await later(site, "assets/photo-DVXNDFMC.jpg").toBe(YEAR);
  });

  test("a name that gets other bytes is told, and revalidated from then on; one that is written anew with the same bytes is not", async () => {
    await tree.write({ "dist/app-5f3a91bc.js": "one", "dist/same-0a1b2c3d.js": "same" });
    const probe = await openProbe(await open());
    const lifetime = async (path: string) => (await probe.get(path)).headers["cache-control"];
    expect([await lifetime("/app-5f3a91bc.js"), await lifetime("/same-0a1b2c3d.js")]).toEqual([YEAR, YEAR]);
    await tree.write({ "dist/app-5f3a91bc.js": "two", "dist/same-0a1b2c3d.js": "same" });
    utimesSync(join(tree.folder, "dist/same-0a1b2c3d.js"), 1_000_000_000, 1_000_000_000);
    expect([await lifetime("/app-5f3a91bc.js"), await lifetime("/same-0a1b2c3d.js")]).toEqual([
      "no-cache",
      YEAR,
    ]);
    await expect
      .poll(() => warned)
      .toEqual([
        "The mount at /: app-5f3a91bc.js has other bytes than before, although its name has a fingerprint; visitors who have the old ones may keep them for as long as they were told. It is revalidated from now on; let the build make the name from the content.",
      ]);
    await tree.write({ "dist/app-5f3a91bc.js": "one" });
    expect(await lifetime("/app-5f3a91bc.js")).toBe("no-cache");
  });
});

test("earlier releases answer for what their own folder calls fingerprinted, and for more where that is said", async () => {
  const old = {
    [ODD]: "old",
    ...ALIKE,
    "assets/legacy.js": "old",
    "assets/photo-of-a-gull.jpg": "old",
    "page.html": "old",
  };
  await tree.write({
    "dist/index.html": "now",
    ...Object.fromEntries(Object.entries(old).map(([path, content]) => [`old/1/${path}`, content])),
    "old/2/x7.js": "listed",
    "old/2/.epistyle/fingerprints.txt": "x7.js\n",
  });
  for (const seal of [false, true]) {
    const statuses = async (files?: string[]): Promise<number[]> => {
      const probe = await openProbe(
        await open({ earlierReleases: { folders: "old/*", ...(files && { files }) } }, seal),
      );
      const paths = [ODD, "x7.js", "assets/legacy.js", "assets/photo-of-a-gull.jpg", "page.html"];
      return Promise.all(paths.map(async (path) => (await probe.get(`/${path}`)).status));
    };
    expect(await statuses()).toEqual([200, 200, 404, 404, 404]);
    expect(await statuses(["legacy.js", "*.jpg"])).toEqual([200, 200, 200, 200, 404]);
  }
  const { trace } = await (await open({ earlierReleases: ["old/1"] })).explain({
    method: "GET",
    target: "/assets/legacy.js",
    headers: {},
  });
  expect(trace).toContainEqual(
    expect.objectContaining({
      role: "earlier release",
      path: "old/1/assets/legacy.js",
      found: "absent",
      reason: {
        code: "not-fingerprinted",
        subject: expect.stringMatching(/^the name does not look fingerprinted: /) as string,
      },
    }),
  );
});

test("if a source of your own rejects, a file is judged by its name alone", async () => {
  const source = memorySource({ "app-5f3a91bc7d2e4f60.js": "1", "a.js": "2" });
  const broken: FileSource = {
    ...source,
    open: async (path) => {
      if (path === "" || path.startsWith(".")) throw new Error("no such thing");
      return source.open(path);
    },
  };
  const site = await openSite({
    mounts: [
      {
        source: broken,
        ...RULE,
        earlierReleases: [{ ...broken, open: () => Promise.reject(new Error("gone")) }],
      },
    ],
  });
  expect([(await ask(site, "app-5f3a91bc7d2e4f60.js"))[0], (await ask(site, "a.js"))[0]]).toEqual([
    YEAR,
    "no-cache",
  ]);
});

test("a list in the folder that cannot be used is told, and left out", async () => {
  const many = Array.from({ length: 1001 }, (_, index) => `part*-${index}.js`).join("\n");
  await tree.write({
    "dist/a.js": "1",
    "dist/.epistyle/fingerprints.txt": many,
    "dist/.vite/manifest.json": "{ cut",
  });
  expect((await ask(await open(), "a.js"))[0]).toBe("no-cache");
  await expect
    .poll(() => warned.sort())
    .toEqual([
      "The mount at /: .epistyle/fingerprints.txt is left out, because it has more than 1000 patterns; build again.",
      expect.stringMatching(
        /^The mount at \/: \.vite\/manifest\.json is left out, because it is not JSON \(.*\); build again\.$/,
      ) as unknown as string,
    ]);
});

test("names in a list without a slash are those of any folder", async () => {
  await tree.write({ "dist/a/b.js": "1", "dist/b.js": "1", "dist/c.js": "1", "names.txt": "b.js\n" });
  const site = await open({ fingerprints: "names.txt" });
  expect([
    (await ask(site, "a/b.js"))[0],
    (await ask(site, "b.js"))[0],
    (await ask(site, "c.js"))[0],
  ]).toEqual([YEAR, YEAR, "no-cache"]);
});

test("the survey tells of names that an earlier release gave to other bytes", async () => {
  await tree.write({
    "dist/app-5f3a91bc.js": "now",
    "dist/same-0a1b2c3d.js": "1",
    "old/app-5f3a91bc.js": "old",
    "old/same-0a1b2c3d.js": "1",
  });
  const { findings } = await surveySite({
    base: tree.folder,
    mounts: [{ folder: "dist", ...RULE, earlierReleases: ["old"] }],
  });
  expect(findings.filter(({ code }) => code === "fingerprint-reused").map(({ address }) => address)).toEqual([
    "/app-5f3a91bc.js",
  ]);
});

test("a seal carries on what is known", async () => {
  await tree.write({ [`dist/${ODD}`]: "1", "dist/b.js": "2", "dist/.epistyle/fingerprints.txt": ODD });
  const { writeSeal } = await import("../src/adapters/node.js");
  const definition = { base: tree.folder, mounts: [{ folder: "dist", ...RULE }] };
  const file = join(tree.folder, "seal.jsonl");
  await writeSeal(definition, file);
  rmSync(join(tree.folder, "dist/.epistyle"), { recursive: true });
  const site = await openSite(definition, { seal: file });
  expect(await ask(site, ODD)).toEqual([YEAR, "the build said so when it was sealed"]);
  expect((await ask(site, "b.js"))[0]).toBe("no-cache");
});
