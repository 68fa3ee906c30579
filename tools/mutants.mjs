// npm run mutants: plants small faults in the code, one at a time, and tells which of them the tests notice.
//   --share N      try one fault in N (default 12)
//   --files GLOB   only in these files; may be given several times
//   --all          list the faults that survived, each with its line
import { spawnSync } from "node:child_process";
import { chownSync, mkdirSync, rmSync } from "node:fs";
import { cpus } from "node:os";
import { relative, sep } from "node:path";
import { parseArgs } from "node:util";
import { Stryker } from "@stryker-mutator/core";
import { build, root } from "./setup.mjs";

const { values: options } = parseArgs({
  options: {
    share: { type: "string", default: "12" },
    files: { type: "string", multiple: true },
    all: { type: "boolean", default: false },
  },
});
/** The user id of nobody, as most systems have it. */
const NOBODY = 65534;
const FOLDERS = ["core", "config", "sources", "site", "adapters", "testing"];
const EVERYTHING = FOLDERS.map((folder) => `src/${folder}/**/*.ts`);

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
const stryker = new Stryker({
  testRunner: "vitest",
  vitest: { configFile: "tools/mutants/vitest.config.ts" },
  plugins: ["@stryker-mutator/vitest-runner", "./tools/mutants/sample.mjs"],
  checkers: ["sample"],
  coverageAnalysis: "perTest",
  mutate: options.files ?? EVERYTHING,
  // Sentences are not behaviour, and a text that is empty is found by reading.
  mutator: { excludedMutations: ["StringLiteral"] },
  // What is worked out when a module is loaded wants all tests for each fault.
  ignoreStatic: true,
  ignorePatterns: ["dist", ".cache", "demo/large"],
  tempDirName: ".cache/mutants",
  tsconfigFile: "none.json",
  reporters: ["progress-append-only"],
  concurrency: Math.max(2, cpus().length),
  timeoutMS: 10_000,
});
const results = await stryker.runMutationTest();

const tried = results.filter(({ status }) =>
  ["Killed", "Timeout", "Survived", "NoCoverage"].includes(status),
);
const isNoticed = ({ status }) => status === "Killed" || status === "Timeout";
const folderOf = ({ fileName }) => relative(`${root}/src`, fileName).split(sep)[0];
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
console.log(`\nfolder     faults  noticed  share\n${"━".repeat(33)}`);
for (const folder of FOLDERS) {
  const all = tried.filter((one) => folderOf(one) === folder);
  if (all.length > 0) console.log(row(folder, all));
}
console.log(row("all", tried));
if (options.all) {
  for (const one of tried.filter((result) => !isNoticed(result))) {
    const { fileName, location, mutatorName, replacement, status } = one;
    const place = `${relative(root, fileName)}:${location.start.line}:${location.start.column}`;
    console.log(
      `\n${place}  ${mutatorName}${status === "NoCoverage" ? ", which no test reaches" : ""}\n  ${(replacement ?? "").replaceAll("\n", "\n  ")}`,
    );
  }
}
