// npm run bench: how fast the library is, as ratios to two yardsticks that run beside it, turn by turn.
//   --seconds N     length of each turn (default 0.4)    --rounds N  turns of each (default 18)
//   --write         put the table and the plot into docs/
//   --json FILE     write all figures to a file
//   --against DIR   compare with another build, such as a clone at an earlier commit: what changed beyond the noise
//   --many          100,000 files as well (a minute more)
import { execFileSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { cpus } from "node:os";
import { parseArgs } from "node:util";
import { build, installDebianPackages, installPackages } from "../tools/setup.mjs";
import { median } from "./measure.mjs";
import { openPrograms } from "./programs.mjs";
import { formatReport, writeReport } from "./report.mjs";
import { comparePace, compareRates, compareSlow, compareSteady } from "./rows.mjs";

const { values: options } = parseArgs({
  options: {
    seconds: { type: "string", default: "0.4" },
    rounds: { type: "string", default: "18" },
    write: { type: "boolean", default: false },
    json: { type: "string" },
    against: { type: "string" },
    many: { type: "boolean", default: false },
  },
});
const turns = { seconds: Number(options.seconds), rounds: Number(options.rounds) };

installPackages();
installDebianPackages({ wrk: "/usr/bin/wrk" });
build();

const programs = await openPrograms({ many: options.many, against: options.against });
process.on("exit", () => programs.stop());
const rates = (title, path, more) => compareRates(programs, { title, path, ...turns, ...more });

const rows = [];
const sizes = [];
for (const [title, path, bytes] of [
  ["1 KiB", "/1k.html", 1024],
  ["4 KiB", "/4k.html", 4096],
  ["16 KiB", "/16k.html", 16_384],
  ["64 KiB", "/64k.html", 65_536],
  ["256 KiB", "/256k.html", 262_144],
  ["1 MiB", "/1m.html", 1_048_576],
]) {
  const row = await rates(title, path);
  sizes.push({ bytes, row });
  if (title !== "4 KiB" && title !== "64 KiB") rows.push(row);
}
rows.push(await rates("304 (1 KiB)", "/1k.html", { tagged: true }));
rows.push(await rates("404", "/missing.html", { failing: true }));
rows.push(await rates("16 KiB, a prebuilt coding", "/16k.html", { headers: { "Accept-Encoding": "br" } }));
rows.push(await rates("1,000 files, evenly", "/", { files: ["/many/", 1000] }));
if (options.many) rows.push(await rates("100,000 files, evenly", "/", { files: ["/all/", 100_000] }));
rows.push(
  await comparePace(programs, { title: "200 MB, one client", path: "/large.bin", clients: 1, rounds: 20 }),
);
rows.push(
  await comparePace(programs, {
    title: "200 MB, 8 clients at once",
    path: "/large.bin",
    clients: 8,
    rounds: 8,
  }),
);
const steady = await compareSteady(programs, { path: "/1k.html", rate: 1000, seconds: 3, rounds: 5 });
const slow = await compareSlow(programs, { path: "/large.bin", clients: 200 });

const run = (name, ...args) =>
  JSON.parse(
    execFileSync(process.execPath, [`${import.meta.dirname}/${name}.mjs`, ...args], { encoding: "utf8" }),
  );
const figures = {
  machine: `Node ${process.version}, ${cpus().length} cores (the load generator runs on them too), ${turns.rounds} turns of ${turns.seconds} s each, medians.`,
  rows,
  sizes,
  steady,
  slow,
  budget: run("budget", programs.folder),
  start: run("start", programs.folder),
  rules: run("rules"),
  listing: run("listing"),
  probe: run("probe"),
  costs: run("costs", programs.folder),
  workers: run("workers"),
};
if (options.json !== undefined) writeFileSync(options.json, `${JSON.stringify(figures, null, 2)}\n`);
console.log(`\n${formatReport(figures)}`);
if (options.against !== undefined) {
  console.log(
    `\nAgainst ${options.against}: what changed beyond the noise (the middle half of the turns is all on one side)`,
  );
  for (const { title, against } of rows) {
    if (against === undefined) continue;
    const [low, high] = against.half;
    const what = low > 1 ? "more" : high < 1 ? "less" : "no change";
    console.log(
      `  ${title}: ${median(against.all).toFixed(2)} of the other build (${low.toFixed(2)} to ${high.toFixed(2)}): ${what}`,
    );
  }
}
if (options.write) await writeReport(figures);
process.exit(0);
