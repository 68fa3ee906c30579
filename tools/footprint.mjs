// node tools/footprint.mjs [--write]: what the package weighs where it is installed, and what it takes to load. With --write the table in
// docs/performance.md is written anew.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { build, installPackages, root } from "./setup.mjs";

installPackages();
build();
const folder = mkdtempSync(join(tmpdir(), "epistyle-footprint-"));
const run = (...args) =>
  execFileSync(args[0], args.slice(1), {
    cwd: folder,
    encoding: "utf8",
    stdio: ["ignore", "pipe", "ignore"],
  });
try {
  const [{ filename, size }] = JSON.parse(
    execFileSync("npm", ["pack", "--json", "--ignore-scripts", "--pack-destination", folder], {
      cwd: root,
      encoding: "utf8",
      stdio: ["ignore", "pipe", "ignore"],
    }),
  );
  writeFileSync(
    join(folder, "package.json"),
    JSON.stringify({ name: "empty", private: true, type: "module" }),
  );
  run("npm", "install", "--no-audit", "--no-fund", `./${filename}`);
  const modules = join(folder, "node_modules");
  const packages = readdirSync(modules).filter((name) => !name.startsWith("."));
  const script = (body) => run(process.execPath, "--input-type=module", "-e", body).trim();
  const load = (names) =>
    median(() =>
      Number(
        script(
          `const t = performance.now(); ${names.map((name) => `await import("${name}");`).join(" ")} console.log(performance.now() - t);`,
        ),
      ),
    );
  const memory = (body) =>
    median(() => Number(script(`${body} globalThis.gc?.(); console.log(process.memoryUsage().rss);`)));
  const bare = memory("");
  const serving = memory(
    `import { memorySource, openSite } from "epistyle"; import { startServer } from "epistyle/node";
     const server = await startServer(await openSite({ mounts: [{ source: memorySource({ "index.html": "a" }) }] }), { port: 0 }); await fetch(server.url); await server.close(0);`,
  );
  const rows = [
    ["to download", `${Math.round(size / 1000)} kB`],
    ["installed", `${(sizeOf(modules) / 1e6).toFixed(1)} MB`],
    ["packages", `${packages.length}`],
    ["`import` of epistyle and epistyle/node", `${Math.round(load(["epistyle", "epistyle/node"]))} ms`],
    ["`import` of epistyle/testing", `${Math.round(load(["epistyle/testing"]))} ms`],
    ["resident memory, serving, above that of a bare Node", `${Math.round((serving - bare) / 1e6)} MB`],
  ];
  const table = ["| | |", "| --- | --- |", ...rows.map((row) => `| ${row.join(" | ")} |`)].join("\n");
  console.log(table);
  if (process.argv.includes("--write")) {
    const file = join(root, "docs/performance.md");
    const text = readFileSync(file, "utf8");
    writeFileSync(
      file,
      text.replace(
        /(<!-- footprint[^>]*-->\n)[\s\S]*?(<!-- end of footprint -->)/,
        (_, start, end) => `${start}${table}\n${end}`,
      ),
    );
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}

function median(measure) {
  const values = Array.from({ length: 5 }, measure).sort((a, b) => a - b);
  return values[2];
}

function sizeOf(path) {
  if (!statSync(path).isDirectory()) return statSync(path).size;
  return readdirSync(path).reduce((sum, name) => sum + sizeOf(join(path, name)), 0);
}
