// Compiles src/ to .cache/build/, bundles what is published of it into dist/, and writes the JSON Schemas that editors read.
// Every module of its own takes its time at each start: bundled, the package is there in a third of it.
import { chmodSync, copyFileSync, existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { rolldown } from "rolldown";
import { root, run } from "./setup.mjs";

const compiled = join(root, ".cache/build");
const dist = join(root, "dist");
/** What can be imported or run; each is a bundle, and what they share lies in chunks. */
const ENTRIES = [
  "index",
  "adapters/node",
  "adapters/web",
  "testing/index",
  "testing/vitest",
  "survey/index",
  "vite/index",
  "cli/bin",
];
/** Small, and needed by nearly every start: bundled. All others stay packages, most of which are loaded when they are used. */
const BUNDLED = /^(?:zod|fastest-levenshtein|picocolors)(?:\/|$)/;

/** Nothing of these needs Node; what of the whole package does is in modules that a site without folders never loads. */
const BROWSER_ENTRIES = ["browser/index", "browser/listings", "browser/pages"];
const ONLY_IN_NODE = /\/(?:open-folder|read-text|compressor|earlier-folders|seal)\.js$/;

removeOrphans();
run(process.execPath, ["node_modules/typescript/bin/tsc", "-b"]);
rmSync(dist, { recursive: true, force: true });
await bundle();
await bundleForBrowsers();
await buildLab();
copyTypes();
chmodSync(join(dist, "cli/bin.js"), 0o755);
await writeSchemas();

async function bundle() {
  const build = await rolldown({
    input: Object.fromEntries(ENTRIES.map((name) => [name, join(compiled, `${name}.js`)])),
    platform: "node",
    // The package says so of what it publishes, and not of what it is bundled from.
    treeshake: { moduleSideEffects: (id) => /\/(?:cli\/|testing\/vitest\.js$)/.test(id) },
    external: (id) =>
      !id.startsWith(".") && !id.startsWith("/") && !BUNDLED.test(id) && !/node_modules/.test(id),
    logLevel: "warn",
  });
  await build.write({
    dir: dist,
    format: "esm",
    chunkFileNames: "chunks/[name]-[hash].js",
  });
  await build.close();
}

async function bundleForBrowsers() {
  const build = await rolldown({
    input: {
      ...Object.fromEntries(BROWSER_ENTRIES.map((name) => [name, join(compiled, `${name}.js`)])),
      "browser/whole": join(compiled, "index.js"),
    },
    platform: "browser",
    plugins: [
      {
        name: "without-node",
        resolveId(id) {
          return ONLY_IN_NODE.test(id) ? join(compiled, "browser/not-here.js") : undefined;
        },
      },
    ],
    treeshake: { moduleSideEffects: false },
    external: /^htmlparser2$/,
    logLevel: "warn",
  });
  await build.write({ dir: dist, format: "esm", chunkFileNames: "browser/chunks/[name]-[hash].js" });
  await build.close();
}

/** The lab's page is an application of its own. */
async function buildLab() {
  const { build } = await import("vite");
  await build({ configFile: join(root, "src/lab/page/vite.config.mjs"), logLevel: "warn" });
}

function copyTypes() {
  for (const entry of readdirSync(compiled, { recursive: true, withFileTypes: true })) {
    if (!entry.name.endsWith(".d.ts")) continue;
    const from = join(entry.parentPath, entry.name);
    const to = join(dist, from.slice(compiled.length));
    mkdirSync(dirname(to), { recursive: true });
    copyFileSync(from, to);
  }
}

async function writeSchemas() {
  const load = (path) => import(join(compiled, path));
  const { toJSONSchema } = await import("zod");
  const { fileSchema } = await load("config/schema.js");
  const { listingSchema } = await load("config/listing-schema.js");
  const { reportSchema } = await load("testing/reports/json.js");
  const { sealSchema } = await load("config/seal-schema.js");
  const { surveySchema } = await load("survey/reports/json.js");
  const { expectationsSchema } = await load("testing/format/schema.js");
  mkdirSync(join(dist, "schema"), { recursive: true });
  for (const [name, schema] of Object.entries({
    config: fileSchema,
    expectations: expectationsSchema,
    listing: listingSchema,
    report: reportSchema,
    seal: sealSchema,
    survey: surveySchema,
  })) {
    const json = toJSONSchema(schema, { io: "input", target: "draft-7" });
    writeFileSync(join(dist, "schema", `${name}.json`), `${JSON.stringify(json, null, 2)}\n`);
  }
}

/** What was built of a module that is gone would still be found, and imported by mistake. */
function removeOrphans() {
  if (!existsSync(compiled)) return;
  for (const entry of readdirSync(compiled, { recursive: true, withFileTypes: true })) {
    const built = join(entry.parentPath, entry.name);
    const source = join(root, "src", built.slice(compiled.length).replace(/(?:\.d)?\.[jt]s$/, ".ts"));
    if (/\.(?:js|d\.ts)$/.test(entry.name) && !existsSync(source)) rmSync(built);
  }
}
