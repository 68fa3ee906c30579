// npm run verify: everything that has to hold, from nothing installed to a packed package in use.
// npm run verify -- --node 24: the tests alone, under another Node, which the registry's package for this platform brings.
// npm run verify -- --runtime deno (or bun): the tests alone, under another runtime; docs/runtimes.md says which do not hold there.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build, installChromium, installPackages, installTestPartners, root, run } from "./setup.mjs";

/** Many tests wait for a process, a cache or a clock: three at a time, also on a machine with two cores. */
const WORKERS = 3;

const step = (title) => console.log(`\n━━ ${title} ${"━".repeat(Math.max(0, 72 - title.length))}`);
const node = (...args) => run(process.execPath, args);

step("Install");
installPackages();
installChromium();
installTestPartners();

const other = /--node (\d+)/.exec(process.argv.slice(2).join(" "))?.[1];
if (other !== undefined) {
  step(`The tests under Node ${other}`);
  build();
  const program = installNode(other);
  run(program, ["--version"]);
  run(program, [
    "node_modules/vitest/vitest.mjs",
    "run",
    `--maxWorkers=${WORKERS}`,
    "--reporter=dot",
    ...["unit", "apart", "browser"].flatMap((name) => ["--project", name]),
  ]);
  process.exit(0);
}

/** Other runtimes: a package of the registry, where its program lies, and what goes before the script. */
const RUNTIMES = {
  deno: { version: "2.9.6", program: "deno/deno", before: ["run", "-A"] },
  bun: { version: "1.4.5", program: "bun/bin/bun.exe", before: ["--bun"] },
};
const runtime = /--runtime (\w+)/.exec(process.argv.slice(2).join(" "))?.[1];
if (runtime !== undefined) {
  const { version, program, before } = RUNTIMES[runtime] ?? {};
  if (version === undefined)
    throw new Error(`Found ${runtime}; write one of ${Object.keys(RUNTIMES).join(", ")}.`);
  step(`The tests under ${runtime} ${version}`);
  build();
  const folder = join(root, ".cache", runtime);
  if (!existsSync(join(folder, "node_modules", program))) {
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, "package.json"), "{}");
    run("npm", [
      "install",
      "--no-audit",
      "--no-fund",
      "--no-save",
      "--prefix",
      folder,
      `${runtime}@${version}`,
    ]);
  }
  // What hangs there is not worth waiting for as long as a busy machine is.
  process.env.EPISTYLE_TEST_SECONDS = "30";
  run(join(folder, "node_modules", program), [
    ...before,
    "node_modules/vitest/vitest.mjs",
    "run",
    `--maxWorkers=${WORKERS}`,
    ...["unit", "apart", "proved", "sealed", "stored"].flatMap((name) => ["--project", name]),
  ]);
  process.exit(0);
}

step("Types and build");
rmSync(join(root, "dist"), { recursive: true, force: true });
build();
node("node_modules/typescript/bin/tsc", "-p", "test");
node("node_modules/typescript/bin/tsc", "-p", "lab-page");
node("node_modules/typescript/bin/tsc", "-p", "examples/lab");

step("Lint and format");
node("node_modules/@biomejs/biome/bin/biome", "check", "--error-on-warnings", ".");

step("Tests, and tests in the browser");
const report = join(root, ".cache/vitest.json");
node(
  "node_modules/vitest/vitest.mjs",
  "run",
  `--maxWorkers=${WORKERS}`,
  "--reporter=default",
  "--reporter=json",
  `--outputFile.json=${report}`,
);

step("The expectations of the demo and the examples: in process, then over the network");
node("tools/check-demo.mjs");

step("The package, packed and used in an empty project");
node("tools/check-package.mjs");

/** Another Node, in a folder of its own. */
function installNode(major) {
  const folder = join(root, ".cache", `node-${major}`);
  const name = `node-${process.platform}-${process.arch}`;
  const program = join(folder, "node_modules", name, "bin/node");
  if (!existsSync(program)) {
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, "package.json"), "{}");
    run("npm", ["install", "--no-audit", "--no-fund", "--no-save", "--prefix", folder, `${name}@${major}`]);
  }
  return program;
}

const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(report, "utf8"));
console.log(`\nverify: ${numPassedTests} passed, ${numFailedTests} failed`);
