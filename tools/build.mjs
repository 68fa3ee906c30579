// Compiles src/ to .cache/build/, bundles what is published of it into dist/, and writes the JSON Schemas that editors read.
// Every module of its own takes its time at each start: bundled, the package is there in a third of it.
import {
  chmodSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { isBuiltin } from "node:module";
import { dirname, join } from "node:path";
import { transform } from "esbuild";
import { rolldown } from "rolldown";
import { parse } from "yaml";
import { root, run } from "./setup.mjs";
import { writeTypes } from "./write-types.mjs";

const compiled = join(root, ".cache/build");
const dist = join(root, "dist");
/** What can be imported; each is a bundle, and what they share lies in chunks. */
const ENTRIES = [
  "index",
  "adapters/node",
  "adapters/web",
  "testing/index",
  "testing/vitest",
  "survey/index",
  "store/index",
  "lab/index",
  "vite/index",
];
/** What can be run, and not imported. */
const PROGRAMS = ["cli/bin", "survey/examine/worker"];
/** Of the project that uses it: what it has anyway, and what it alone knows. Everything else is bundled, with its licences. */
const OF_THE_PROJECT = /^(?:vite|vitest)(?:\/|$)/;

/** Nothing of these needs Node; what of the whole package does is in modules that a site without folders never loads. */
const BROWSER_ENTRIES = ["browser/index", "browser/listings", "browser/pages", "browser/fingerprints"];
const ONLY_IN_NODE = /\/(?:open-folder|read-text|compressor|earlier-folders|seal|stored-site)\.js$/;

/** The packages that are bundled, by name: the folder of each. */
const bundled = new Map();
/** Comments stay with the sources and the types. */
const withoutComments = {
  name: "without-comments",
  async transform(code, id) {
    if (!/\.[cm]?js$/.test(id)) return undefined;
    const { code: less } = await transform(code, { legalComments: "none" });
    return { code: less, map: null };
  },
};

/** Packages that are loaded together lie in one chunk, apart from our own code. */
const THEIRS = {
  log: /^(?:sonic-boom|atomic-sleep)\b/,
  pages: /^(?:parse5|entities|saxes|xmlchars)\b/,
  xml: /^(?:fast-xml-|path-expression-matcher|xml-naming|strnum)/,
  watch: /^(?:chokidar|readdirp)\b/,
};
const IN_PACKAGES = /\/node_modules\/((?:@[^/]+\/)?[^/]+)\//;
const theirs = {
  groups: [
    {
      debugName: "theirs",
      name(id) {
        const name = IN_PACKAGES.exec(id)?.[1];
        if (name === undefined) return null;
        const together = Object.entries(THEIRS).find(([, names]) => names.test(name))?.[0];
        return `theirs-${together ?? name}`;
      },
    },
  ],
};

/** Our own code keeps its lines and its names, so that a stack can be read; that of packages does not. */
const shorten = (everything) => ({
  name: "shorten",
  async renderChunk(code, { modules }) {
    const isTheirs = Object.keys(modules).every((id) => IN_PACKAGES.test(id));
    if (!isTheirs && !everything) return null;
    const { code: less } = await transform(code, {
      minifyWhitespace: true,
      minifySyntax: isTheirs,
      minifyIdentifiers: isTheirs,
      format: "esm",
      target: "node20",
      legalComments: "none",
    });
    return { code: less, map: null };
  },
});

/** Takes note of each package that goes into a bundle. */
const noteLicences = {
  name: "licences",
  generateBundle(_options, output) {
    for (const { modules = {} } of Object.values(output))
      for (const id of Object.keys(modules)) {
        const [, folder, name] = /^(.*\/node_modules\/((?:@[^/]+\/)?[^/]+))\//.exec(id) ?? [];
        if (name !== undefined) bundled.set(name, folder);
      }
  },
};

await writeTypes();
removeOrphans();
run(process.execPath, ["node_modules/typescript/bin/tsc", "-b"]);
rmSync(dist, { recursive: true, force: true });
await bundle();
await bundleForBrowsers();
await buildLab();
copyTypes();
writeNotices();
chmodSync(join(dist, "cli/bin.js"), 0o755);
await writeSchemas();

async function bundle() {
  const build = await rolldown({
    input: Object.fromEntries([...ENTRIES, ...PROGRAMS].map((name) => [name, join(compiled, `${name}.js`)])),
    platform: "node",
    // The package says so of what it publishes, and not of what it is bundled from.
    treeshake: {
      moduleSideEffects: (id) => /\/(?:cli\/|testing\/vitest\.js$|examine\/worker\.js$)/.test(id),
    },
    external: (id) => isBuiltin(id) || OF_THE_PROJECT.test(id),
    plugins: [noteLicences, withoutComments, shorten(false)],
    logLevel: "warn",
  });
  await build.write({
    dir: dist,
    format: "esm",
    chunkFileNames: "chunks/[name]-[hash].js",
    codeSplitting: theirs,
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
      withoutComments,
      // Projects that use it bundle it again.
      shorten(true),
      {
        name: "without-node",
        resolveId(id) {
          return ONLY_IN_NODE.test(id) ? join(compiled, "browser/not-here.js") : undefined;
        },
      },
    ],
    treeshake: { moduleSideEffects: false },
    logLevel: "warn",
  });
  await build.write({
    dir: dist,
    format: "esm",
    chunkFileNames: "browser/chunks/[name]-[hash].js",
    codeSplitting: theirs,
  });
  await build.close();
}

/** The lab's page is an application of its own. */
async function buildLab() {
  const { build } = await import("vite");
  const configFile = join(root, "lab-page/vite.config.mjs");
  await build({ configFile, logLevel: "warn", plugins: [noteLicences] });
}

/** The types that the entries lead to, and no others. */
function copyTypes() {
  const left = [...ENTRIES, ...BROWSER_ENTRIES].map((name) => join(compiled, `${name}.d.ts`));
  const seen = new Set();
  for (let file = left.pop(); file !== undefined; file = left.pop()) {
    if (seen.has(file)) continue;
    seen.add(file);
    const text = readFileSync(file, "utf8");
    for (const [, path] of text.matchAll(/(?:from|import\()\s*"(\.[^"]+)\.js"/g))
      left.push(join(dirname(file), `${path}.d.ts`));
    const to = join(dist, file.slice(compiled.length));
    mkdirSync(dirname(to), { recursive: true });
    copyFileSync(file, to);
  }
}

/** Licences say that they go along with what they are for. */
function writeNotices() {
  const texts = [...bundled].sort().map(([name, folder]) => {
    const { version, license } = JSON.parse(readFileSync(join(folder, "package.json"), "utf8"));
    const file = readdirSync(folder).find((one) => /^licen[cs]e/i.test(one));
    const text = file === undefined ? `Licence: ${license}` : readFileSync(join(folder, file), "utf8").trim();
    return `${name} ${version}\n${"-".repeat(`${name} ${version}`.length)}\n\n${text}\n`;
  });
  const head = "What is bundled into this package, each with its licence.\n";
  writeFileSync(join(dist, "THIRD-PARTY-NOTICES.txt"), [head, ...texts].join("\n\n"));
}

async function writeSchemas() {
  const load = (path) => import(join(compiled, path));
  const { toJSONSchema } = await import("zod");
  const { fileSchema } = await load("config/schema.js");
  const { listingSchema } = await load("config/listing/listing-schema.js");
  const { reportSchema } = await load("testing/reports/json.js");
  const { sealSchema } = await load("config/seal-schema.js");
  const { surveySchema } = await load("survey/reports/json-schema.js");
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
    const json = toJSONSchema(schema, {
      io: "input",
      target: "draft-7",
      override: plainKeywords,
      reused: "ref",
    });
    writeFileSync(join(dist, "schema", `${name}.json`), `${JSON.stringify(json)}\n`);
  }
}

/** Keywords that validators know: an example is a value, and a pattern or what is needed comes from what the schema says of itself. */
function plainKeywords({ jsonSchema }) {
  const { example, needs } = jsonSchema;
  if (example !== undefined) jsonSchema.examples = [parse(example)];
  if (needs !== undefined) jsonSchema.required = [...(jsonSchema.required ?? []), ...needs];
  if (jsonSchema.format === "starts_with") delete jsonSchema.format;
  for (const own of ["example", "needs", "typeName"]) delete jsonSchema[own];
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
