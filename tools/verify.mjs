// npm run verify: everything that has to hold, from nothing installed to a packed package in use.
import { readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { build, installChromium, installPackages, installTestPartners, root, run } from "./setup.mjs";

const step = (title) => console.log(`\n━━ ${title} ${"━".repeat(Math.max(0, 72 - title.length))}`);
const node = (...args) => run(process.execPath, args);

step("Install");
installPackages();
installChromium();
installTestPartners();

step("Types and build");
rmSync(join(root, "dist"), { recursive: true, force: true });
build();
node("node_modules/typescript/bin/tsc", "-p", "test");
node("node_modules/typescript/bin/tsc", "-p", "src/lab/page");

step("Lint and format");
node("node_modules/@biomejs/biome/bin/biome", "check", "--error-on-warnings", ".");

step("Tests, and tests in the browser");
const report = join(root, ".cache/vitest.json");
node(
  "node_modules/vitest/vitest.mjs",
  "run",
  // Many tests wait for a process, a cache or a clock: two at a time, also on a machine with two cores.
  "--maxWorkers=2",
  "--reporter=default",
  "--reporter=json",
  `--outputFile.json=${report}`,
);

step("The expectations of the demo and the examples: in process, then over the network");
node("tools/check-demo.mjs");

step("The package, packed and used in an empty project");
node("tools/check-package.mjs");

const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(report, "utf8"));
console.log(`\nverify: ${numPassedTests} passed, ${numFailedTests} failed`);
