// Packs the package, installs the tarball in an empty project, and uses it there as the README says.
import { execFileSync, spawn } from "node:child_process";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { root } from "./setup.mjs";

const folder = mkdtempSync(join(tmpdir(), "epistyle-package-"));
const inProject = (command, ...args) =>
  execFileSync(command, args, { cwd: folder, encoding: "utf8", stdio: ["ignore", "pipe", "inherit"] });
const fail = (message) => {
  console.error(message);
  process.exit(1);
};
let server;
try {
  // As npm pack does it, but for the build, which is there.
  execFileSync(process.execPath, ["tools/pack-readme.mjs"], { cwd: root });
  const [{ filename }] = JSON.parse(
    execFileSync("npm", ["pack", "--json", "--ignore-scripts", "--pack-destination", folder], {
      cwd: root,
      encoding: "utf8",
    }),
  );
  execFileSync(process.execPath, ["tools/pack-readme.mjs", "restore"], { cwd: root });
  writeFileSync(
    join(folder, "package.json"),
    JSON.stringify({ name: "empty", private: true, type: "module" }),
  );
  inProject("npm", "install", "--no-audit", "--no-fund", `./${filename}`);

  const packed = readFileSync(join(folder, "node_modules/epistyle/README.md"), "utf8");
  for (const [, target] of packed.matchAll(/\]\(([^)#:]+)(?:#[^)]*)?\)/g))
    if (!existsSync(join(folder, "node_modules/epistyle", target)))
      fail(`The packed README leads to ${target}, which is not packed.`);
  // The README's first example, just as it stands there.
  const readme = readFileSync(join(root, "README.md"), "utf8");
  const example = /```js\n([\s\S]*?)```/.exec(readme)?.[1] ?? fail("README.md has no example in JavaScript.");
  mkdirSync(join(folder, "public"));
  writeFileSync(join(folder, "public", "index.html"), "<h1>It is served</h1>");
  // Only the port is another, since 8080 may be taken.
  writeFileSync(join(folder, "server.js"), example.replaceAll("8080", "18080"));
  server = spawn(process.execPath, ["server.js"], { cwd: folder, stdio: ["ignore", "pipe", "inherit"] });
  const url = await new Promise((resolve, reject) => {
    server.stdout.on("data", (chunk) => {
      const match = /http:\S+/.exec(String(chunk));
      if (match) resolve(match[0]);
    });
    server.once("exit", (code) => reject(new Error(`The README's example ended with status ${code}.`)));
  });
  const page = await fetch(url);
  if (page.status !== 200 || !(await page.text()).includes("It is served"))
    fail("The example does not serve the folder.");

  // Types, the command, and the demo that comes with the package.
  // Vitest is the project's own; this one borrows it.
  symlinkSync(join(root, "node_modules/vitest"), join(folder, "node_modules/vitest"));
  writeFileSync(
    join(folder, "types.ts"),
    `import { openSite, memorySource, type Site } from "epistyle";
import { nodeHandler } from "epistyle/node";
import { webHandler } from "epistyle/web";
import { askSite, assertMeets, openProbe } from "epistyle/testing";
import "epistyle/vitest";
import { createSecureServer } from "node:http2";
import { expect } from "vitest";
const site: Site = await openSite({ mounts: [{ source: memorySource({ "a.txt": "a" }) }] });
const answer = await (await openProbe(site)).get("/a.txt");
assertMeets(answer, { status: 200, body: { equals: "a" } });
export const met: void = expect(answer).toMeet({ status: 200 });
// @ts-expect-error A status is a number.
expect(answer).toAnswerWith("200");
createSecureServer({ allowHTTP1: true }, nodeHandler(site));
export const all = [nodeHandler(site), webHandler(site), askSite(site, "memory")];
`,
  );
  const tsc = join(root, "node_modules/typescript/bin/tsc");
  const types = join(root, "node_modules/@types");
  inProject(
    process.execPath,
    tsc,
    "--noEmit",
    "--strict",
    "--target",
    "es2022",
    "--module",
    "nodenext",
    "--typeRoots",
    types,
    "--types",
    "node",
    "types.ts",
  );
  // An older way to find modules, which many projects still have: the types of subpaths are found there, too.
  writeFileSync(
    join(folder, "older.ts"),
    'import type { Site } from "epistyle";\nimport { nodeHandler } from "epistyle/node";\nexport const handler = (site: Site) => nodeHandler(site);\n',
  );
  inProject(
    process.execPath,
    tsc,
    "--noEmit",
    "--strict",
    "--target",
    "es2022",
    "--module",
    "esnext",
    "--moduleResolution",
    "bundler",
    "--typeRoots",
    types,
    "--types",
    "node",
    "older.ts",
  );
  const [installed] = [
    readdirSync(join(folder, "node_modules")).filter((name) => !name.startsWith(".") && name !== "vitest"),
  ];
  if (installed.join() !== "epistyle") fail(`More is installed than the package: ${installed.join(", ")}.`);
  // From CommonJS, as older projects are written.
  writeFileSync(
    join(folder, "common.cjs"),
    'const { openSite } = require("epistyle");\nconsole.log(typeof openSite);\n',
  );
  if (inProject(process.execPath, "--no-warnings", "common.cjs").trim() !== "function")
    fail("require does not work.");
  const demo = join("node_modules", "epistyle", "demo", "expectations.yaml");
  const report = inProject(join("node_modules", ".bin", "epistyle"), "check", demo);
  if (!report.includes("All passed")) fail(report);
  console.log("The packed package serves, compiles against its types, and passes the demo's expectations.");
} finally {
  server?.removeAllListeners("exit");
  server?.kill();
  rmSync(folder, { recursive: true, force: true });
}
