// npm run mutants: plants small faults in the code, one at a time, and tells which of them the tests notice.
//   --share N      try one fault in N (default 12)
//   --sample K     another sample of that size (default 0)
//   --files GLOB   only in these files; may be given several times
//   --all          list the faults that survived, each with its line
import { spawnSync } from "node:child_process";
import { chownSync, existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { cpus } from "node:os";
import { parseArgs } from "node:util";
import { Stryker } from "@stryker-mutator/core";
import { WITHOUT_EFFECT } from "./mutants/without-effect.mjs";
import { build, root } from "./setup.mjs";

const { values: options } = parseArgs({
  options: {
    share: { type: "string", default: "12" },
    sample: { type: "string", default: "0" },
    files: { type: "string", multiple: true },
    all: { type: "boolean", default: false },
  },
});
/** The user id of nobody, as most systems have it. */
const NOBODY = 65534;
/** What the command line does is tested as a program of its own, and not by faults planted here. */
const FOLDERS = [
  "core",
  "reading",
  "config",
  "sources",
  "site",
  "inspection",
  "adapters",
  "testing",
  "survey",
  "lab",
  "vite",
];

const folder = `${root}/.cache/mutants`;
if (process.getuid?.() === 0) {
  // Root may read everything, so what the tests say of permissions is only seen by another user.
  build();
  rmSync(folder, { recursive: true, force: true });
  // Vite writes each configuration it has read into the second one.
  for (const own of [folder, `${root}/node_modules/.vite-temp`]) {
    mkdirSync(own, { recursive: true });
    chownSync(own, NOBODY, NOBODY);
  }
  const env = { ...process.env, HOME: folder };
  const { status } = spawnSync(process.execPath, process.argv.slice(1), {
    uid: NOBODY,
    gid: NOBODY,
    env,
    stdio: "inherit",
  });
  process.exit(status ?? 1);
}
if (process.getuid?.() !== NOBODY) build();
process.env.EPISTYLE_MUTANTS_SHARE = options.share;
process.env.EPISTYLE_MUTANTS_SAMPLE = options.sample;

/** Plants faults in one folder of src/, and runs the tests that are about it: tools/mutants/vitest.config.ts names them. */
function tryFaults(folder) {
  process.env.EPISTYLE_MUTANTS_FOLDER = folder;
  return new Stryker({ ...settings, mutate: filesOf(folder) }).runMutationTest();
}

// The table of rules is written into the docs, and compared with them by another test; the core for browsers is tested as a bundle.
const filesOf = (folder) =>
  options.files?.filter((file) => file.startsWith(`src/${folder}/`)) ?? [
    `src/${folder}/**/*.ts`,
    "!src/config/table.ts",
    "!src/site/open-checked.ts",
  ];

const settings = {
  testRunner: "vitest",
  vitest: { configFile: "tools/mutants/vitest.config.ts" },
  plugins: ["@stryker-mutator/vitest-runner", "./tools/mutants/sample.mjs", "./tools/mutants/survivors.mjs"],
  checkers: ["sample"],
  coverageAnalysis: "perTest",
  // Sentences are not behaviour, and a text that is empty is found by reading.
  mutator: { excludedMutations: ["StringLiteral"] },
  // What is worked out while a module is loaded is the same for all tests of a run.
  ignoreStatic: true,
  ignorePatterns: [".cache", "demo/large"],
  tempDirName: ".cache/mutants",
  tsconfigFile: "none.json",
  reporters: options.all ? ["progress-append-only", "survivors"] : ["progress-append-only"],
  // One of them only chooses the faults at first. Tests wait now and then.
  concurrency: cpus().length + 1,
  // A slow turn of all tests is no fault that was noticed.
  timeoutMS: 40_000,
};

const isTried = ({ status }) => ["Killed", "Timeout", "Survived", "NoCoverage"].includes(status);
const isNoticed = ({ status }) => status === "Killed" || status === "Timeout";
const row = (name, all) => {
  const noticed = all.filter(isNoticed).length;
  const percent = all.length === 0 ? "" : `${((100 * noticed) / all.length).toFixed(0)} %`;
  return [
    name.padEnd(10),
    String(all.length).padStart(6),
    String(noticed).padStart(9),
    percent.padStart(7),
  ].join("");
};
/** Entries of the list that name a line that is not there any more. */
const isStale = ({ file, line }) =>
  !existsSync(`${root}/${file}`) ||
  !readFileSync(`${root}/${file}`, "utf8")
    .split("\n")
    .some((one) => one.replace(/\s+/g, " ").trim() === line);

const stale = WITHOUT_EFFECT.filter(isStale);
for (const { file, line } of stale)
  console.log(`tools/mutants/without-effect.mjs: ${file} has no line ${line}`);
if (stale.length > 0) process.exit(1);

const rows = [];
const everything = [];
for (const folder of FOLDERS) {
  if (filesOf(folder).length === 0) continue;
  const tried = (await tryFaults(folder)).filter(isTried);
  everything.push(...tried);
  rows.push(row(folder, tried));
  // Said at once: the rest may take an hour.
  console.log(`\n${rows.at(-1)}`);
}
console.log(`\nfolder     faults  noticed  share\n${"━".repeat(33)}`);
for (const line of [...rows, row("all", everything)]) console.log(line);
