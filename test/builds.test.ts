import { existsSync, renameSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { build, type InlineConfig } from "vite";
import { build as buildWith6 } from "vite6";
import { build as buildWith7 } from "vite7";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { openSite, type Site } from "../src/index.js";
import { makeTemporaryTree, openProbe, type TemporaryTree } from "../src/testing/index.js";
import { epistyle } from "../src/vite/index.js";

// Real builds of an application with many lazy parts, in two releases.
const PARTS = 500;
const NAMES = "heron curlew tern gull plover dunlin knot ruff snipe smew".split(" ");
const nameOf = (index: number): string => `${NAMES[index % NAMES.length]}${index}`;

// What nobody built: some of it lies where the build puts its own.
const GIVEN: Readonly<Record<string, string>> = {
  "robots.txt": "User-agent: *",
  "favicon.svg": "<svg xmlns='http://www.w3.org/2000/svg'/>",
  "iPhone15Pro.jpg": "a photo",
  "report-Q3final2.pdf": "%PDF-1.7",
  "assets/RFC9110bis.txt": "a standard",
  "assets/logo-baseline.svg": "<svg xmlns='http://www.w3.org/2000/svg'/>",
  "assets/view-2026-11-25.jpg": "a photo",
};

function sources(release: number): Record<string, string> {
  const files: Record<string, string> = {
    "index.html":
      '<!doctype html><html lang="en"><title>Larkholm</title><script type="module" src="/main.js"></script></html>',
    "main.js": `import "./main.css";\nexport const parts = [${Array.from({ length: PARTS }, (_, i) => `() => import("./parts/${nameOf(i)}.js")`).join(", ")}];\ndocument.title += parts.length;\nglobalThis.load = () => Promise.all(parts.map((part) => part()));`,
    "main.css": `@import "./site.css"; body { background: url("./hide.png") }\n.release${release} { color: #123 }`,
    "site.css": "main { max-width: 60rem }",
    "hide.png": `not much of a picture ${release} ${"x".repeat(5000)}`,
  };
  for (let i = 0; i < PARTS; i++)
    files[`parts/${nameOf(i)}.js`] =
      `export const bird = "${nameOf(i)}, release ${release}";\nconsole.log(bird);`;
  for (const [path, content] of Object.entries(GIVEN)) files[`public/${path}`] = content;
  return files;
}

let tree: TemporaryTree;
beforeAll(async () => {
  tree = await makeTemporaryTree({
    ...sources(1),
    "epistyle.config.yaml": "mounts: [{ folder: dist, kind: app }]",
  });
});
afterAll(() => tree.close());

const BUILDERS = {
  "Vite 8": build,
  "Vite 7": buildWith7 as unknown as typeof build,
  "Vite 6": buildWith6 as unknown as typeof build,
};
type How = "plugin" | "manifest" | "nothing";

async function buildRelease(builder: keyof typeof BUILDERS, out: string, how: How): Promise<void> {
  const config: InlineConfig = {
    root: tree.folder,
    configFile: false,
    logLevel: "silent",
    build: { outDir: out, emptyOutDir: true, manifest: how === "manifest", assetsInlineLimit: 0 },
    plugins: how === "plugin" ? [epistyle()] : [],
  };
  await BUILDERS[builder](config);
}

async function judge(site: Site): Promise<{ fingerprinted: string[]; others: string[] }> {
  const all: { fingerprinted: string[]; others: string[] } = { fingerprinted: [], others: [] };
  for await (const { path, kind, fingerprinted } of site.files())
    if (kind === "file") all[fingerprinted ? "fingerprinted" : "others"].push(path);
  return all;
}

describe.each<[keyof typeof BUILDERS, How]>([
  ["Vite 8", "plugin"],
  ["Vite 8", "manifest"],
  ["Vite 8", "nothing"],
  ["Vite 7", "plugin"],
  ["Vite 6", "plugin"],
  ["Vite 7", "nothing"],
])("%s, known by %s", (builder, how) => {
  test("every built file is kept for a year, and nothing else", async () => {
    await buildRelease(builder, "dist", how);
    const config = { base: tree.folder, mounts: [{ folder: "dist", kind: "app" as const }] };
    for (const seal of how === "nothing" ? [false, true] : [false]) {
      const site = await openSite(config, { seal });
      const { fingerprinted, others } = await judge(site);
      expect(others.sort()).toEqual(["/index.html", ...Object.keys(GIVEN).map((path) => `/${path}`)].sort());
      expect(fingerprinted.length).toBeGreaterThan(PARTS + 2);
      const probe = await openProbe(site);
      for (const path of [...fingerprinted.slice(0, 20), ...others]) {
        const isLong = (await probe.get(path)).headers["cache-control"]?.includes("immutable");
        expect([path, isLong]).toEqual([path, fingerprinted.includes(path)]);
      }
    }
    expect(existsSync(join(tree.folder, "dist/.epistyle/fingerprints.txt"))).toBe(how === "plugin");
    const probe = await openProbe(await openSite(config));
    expect((await probe.get("/.epistyle/fingerprints.txt")).status).toBe(404);
  });
});

describe("two releases", () => {
  beforeAll(async () => {
    await buildRelease("Vite 8", "releases/1", "nothing");
    await tree.write(sources(2));
    await buildRelease("Vite 8", "releases/2", "nothing");
    symlinkSync("releases/1", join(tree.folder, "current"));
  });

  const only = async (): Promise<string[]> => {
    const [old, now] = await Promise.all(
      ["releases/1", "releases/2"].map(async (folder) =>
        judge(await openSite({ base: tree.folder, mounts: [{ folder }] })),
      ),
    );
    return old!.fingerprinted.filter((path) => !now!.fingerprinted.includes(path));
  };

  test.each<[string, string, boolean]>([
    ["live", "releases/2", false],
    ["sealed", "releases/2", true],
    ["over a link that is switched", "current", false],
  ])("%s: none of what only the old one has is lost", async (_how, folder, seal) => {
    const site = await openSite(
      { base: tree.folder, mounts: [{ folder, kind: "app", earlierReleases: { folders: "releases/*" } }] },
      { seal },
    );
    if (folder === "current") {
      symlinkSync("releases/2", join(tree.folder, "next"));
      renameSync(join(tree.folder, "next"), join(tree.folder, "current"));
    }
    const probe = await openProbe(site);
    const paths = await only();
    expect(paths.length).toBeGreaterThan(PARTS);
    const lost: string[] = [];
    for (const path of paths) {
      const { status, headers } = await probe.get(path);
      if (status !== 200 || !headers["cache-control"]?.includes("immutable")) lost.push(`${status} ${path}`);
    }
    expect(lost).toEqual([]);
    expect((await probe.get("/assets/logo-baseline.svg")).headers["cache-control"]).toBe("no-cache");
  });
});
