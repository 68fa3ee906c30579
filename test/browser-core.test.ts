import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { gzipSync } from "node:zlib";
import { build as buildWithEsbuild } from "esbuild";
import { build as buildWithVite, createLogger } from "vite";
import { afterAll, beforeAll, expect, test } from "vitest";
import { memorySource, openSite, readPlan, type SiteConfig } from "../src/index.js";

const root = join(import.meta.dirname, "..");

// What browsers get, bundled as an application bundles it: from the package's own entries.
let folder: string;
beforeAll(() => {
  mkdirSync(join(root, ".cache"), { recursive: true });
  folder = mkdtempSync(join(root, ".cache/browser-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const BARE = 'export { openCheckedSite, memorySource, readPlan, webHandler } from "epistyle/browser";';
const WITH_PARTS = `${BARE}\nexport { listings } from "epistyle/browser/listings";\nexport { pages } from "epistyle/browser/pages";\nexport { fingerprints } from "epistyle/browser/fingerprints";`;
const WHOLE = 'export { openSite, memorySource } from "epistyle";';

async function bundle(
  name: string,
  entry: string,
  tool: "vite" | "esbuild",
): Promise<{ code: string; warnings: string[] }> {
  const file = join(folder, `${name}.js`);
  writeFileSync(file, entry);
  const warnings: string[] = [];
  if (tool === "esbuild") {
    const result = await buildWithEsbuild({
      entryPoints: [file],
      bundle: true,
      minify: true,
      format: "esm",
      platform: "browser",
      write: false,
      logLevel: "silent",
    });
    return { code: result.outputFiles[0]!.text, warnings: result.warnings.map(({ text }) => text) };
  }
  const customLogger = createLogger("warn");
  for (const level of ["warn", "warnOnce", "error"] as const)
    customLogger[level] = (text: string) => void warnings.push(text);
  const output = await buildWithVite({
    root: folder,
    configFile: false,
    customLogger,
    build: {
      rolldownOptions: { input: file, preserveEntrySignatures: "strict" },
      modulePreload: false,
      write: false,
      minify: true,
      reportCompressedSize: false,
    },
  });
  const { output: chunks } = output as unknown as { output: { code?: string }[] };
  return { code: chunks.map(({ code = "" }) => code).join("\n"), warnings };
}

test.each(["vite", "esbuild"] as const)(
  "the core for browsers is under 30 kB compressed, and %s has no warning",
  async (tool) => {
    const { code, warnings } = await bundle(`bare-${tool}`, BARE, tool);
    expect(warnings).toEqual([]);
    expect(gzipSync(code, { level: 9 }).length).toBeLessThan(30_000);
    for (const [name, entry] of [
      ["parts", WITH_PARTS],
      ["whole", WHOLE],
    ] as const)
      expect((await bundle(`${name}-${tool}`, entry, tool)).warnings, name).toEqual([]);
  },
);

interface Core {
  webHandler(site: unknown): (request: Request) => Promise<Response | undefined>;
  openCheckedSite(config: SiteConfig, options?: { parts: unknown[] }): Awaited<ReturnType<typeof openSite>>;
  memorySource: typeof memorySource;
  listings: unknown;
  pages: unknown;
  fingerprints: unknown;
}

async function load(): Promise<Core> {
  const { code } = await bundle("parts", WITH_PARTS, "esbuild");
  const file = join(folder, "parts.bundle.mjs");
  writeFileSync(file, code);
  return (await import(pathToFileURL(file).href)) as Core;
}

const TREE = {
  "index.html": "<title>Larkholm</title><script>go()</script>",
  "404.html": "none",
  "guide/rook.html": "rook",
  "app-Dk3f9a2Q.js": "go()",
  "records/2026.csv": "ring,bird\n",
};
const TIMES = { modified: new Date("2026-05-01T00:00:00Z") };
const configure = (source: typeof memorySource): SiteConfig => ({
  protect: true,
  codings: { compress: false },
  moved: { "/old/": "/guide/" },
  mounts: [
    {
      source: source(TREE, TIMES),
      errorPages: { 404: "/404.html" },
      caching: [{ files: "fingerprinted", policy: "immutable" }],
      areas: { "/records": { listing: true } },
      withheld: ["*.bak"],
      headers: [{ files: "*.html", set: { "X-Site": "larkholm" } }],
    },
    { at: "/app", source: source(TREE, TIMES), kind: "app", appShell: "/index.html", protect: false },
  ],
});

test("it answers as the whole library does", async () => {
  const { openCheckedSite, memorySource: source, listings, pages, fingerprints } = await load();
  const core = openCheckedSite(configure(source), { parts: [listings, pages, fingerprints] });
  const site = await openSite(configure(memorySource));
  for (const [target, headers] of [
    ["/", {}],
    ["/guide/rook", { "If-None-Match": "*" }],
    ["/app-Dk3f9a2Q.js", { Range: "bytes=1-2" }],
    ["/records/", { accept: "text/html" }],
    ["/records/", { accept: "application/json" }],
    ["/old/rook?ring=1", {}],
    ["/nothing", {}],
    ["/%2e%2e/secret", {}],
    ["/app/deep/link", { accept: "text/html" }],
  ] as [string, Record<string, string>][]) {
    const request = { method: "GET", target, headers };
    const [mine, whole] = [await core.respond(request), await site.respond(request)];
    if (mine.kind === "pass" || whole.kind === "pass") throw new Error("passed on");
    const told = async (plan: typeof mine) => [
      plan.status,
      [...plan.fields].map(({ name, value }) => [name, value]),
      new TextDecoder().decode(await readPlan(plan)),
    ];
    expect(await told(mine), target).toEqual(await told(whole));
  }
});

test("its Fetch handler answers, in parts, too", async () => {
  const { openCheckedSite, memorySource: source, webHandler } = await load();
  const handler = webHandler(openCheckedSite({ mounts: [{ source: source(TREE) }] }));
  const response = await handler(
    new Request("https://larkholm.example/404.html", { headers: { range: "bytes=1-2" } }),
  );
  expect([response!.status, await response!.text()]).toEqual([206, "on"]);
  expect(await handler(new Request("https://larkholm.example/api"))).toBeUndefined();
});

test.each<[string, SiteConfig["mounts"][number], RegExp]>([
  ["no source", { folder: "dist" }, /^mounts\[0\]: found no source; write source: memorySource/],
  [
    "a listing without its part",
    { source: memorySource({}), kind: "archive" },
    /^kind archive\.listing: found a rule whose part is not included; import { listings } from "epistyle\/browser\/listings"/,
  ],
  [
    "a policy without its part",
    { source: memorySource({}), protect: true },
    /^mounts\[0\]\.protect: .*import { pages } from "epistyle\/browser\/pages"/,
  ],
  [
    "a rule for fingerprinted files without its part",
    { source: memorySource({}), caching: [{ files: "fingerprinted", policy: "immutable" }] },
    /^mounts\[0\]\.caching\[0\] \(fingerprinted\): .*import { fingerprints } from "epistyle\/browser\/fingerprints"/,
  ],
])("%s is told", async (_title, mount, message) => {
  const { openCheckedSite } = await load();
  expect(() => openCheckedSite({ mounts: [mount] })).toThrow(message);
});
