// npm run bench: how fast the library is, as ratios to two yardsticks that run beside it, turn by turn.
//   --seconds N  length of each turn (default 2)    --rounds N  turns of each (default 5)
//   --write      put the table into docs/performance.md
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { cpus, tmpdir } from "node:os";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { build, installDebianPackage, installPackages, root } from "../tools/setup.mjs";
import { measurePace, measureRate, median, readPeakMemory, startProgram } from "./measure.mjs";

const { values: options } = parseArgs({
  options: {
    seconds: { type: "string", default: "2" },
    rounds: { type: "string", default: "5" },
    write: { type: "boolean", default: false },
  },
});
const seconds = Number(options.seconds);
const rounds = Number(options.rounds);
const PORTS = { ceiling: 18_301, handwritten: 18_302, live: 18_303 };
const LARGE_BYTES = 200 * 1024 * 1024;

installPackages();
installDebianPackage("wrk", "/usr/bin/wrk");
build();

const folder = mkdtempSync(join(tmpdir(), "epistyle-bench-"));
const programs = [];
process.on("exit", () => {
  for (const program of programs) program.stop();
  rmSync(folder, { recursive: true, force: true });
});

for (const [name, bytes] of [
  ["1k.html", 1024],
  ["16k.html", 16_384],
  ["256k.html", 262_144],
  ["large.bin", LARGE_BYTES],
]) {
  writeFileSync(join(folder, name), Buffer.alloc(bytes, "x"));
  // A file is not served the moment it was written.
  utimesSync(join(folder, name), 1_790_000_000, 1_790_000_000);
}

const here = (name) => join(root, "bench", name);
programs.push(await startProgram(here("live.mjs"), folder, String(PORTS.live)));
programs.push(await startProgram(here("handwritten.mjs"), folder, String(PORTS.handwritten)));
const answers = await recordAnswers(["/1k.html", "/16k.html", "/256k.html", "/missing.html", "/large.bin"]);
writeFileSync(join(folder, "answers.json"), JSON.stringify(answers));
programs.push(await startProgram(here("ceiling.mjs"), join(folder, "answers.json"), String(PORTS.ceiling)));

const rows = [];
for (const [title, path] of [
  ["1 KiB", "/1k.html"],
  ["16 KiB", "/16k.html"],
  ["256 KiB", "/256k.html"],
]) {
  rows.push(await compareRates(title, path));
}
rows.push(await compareRates("304 (1 KiB)", "/1k.html", { tagged: true }));
rows.push(await compareCompressed());
rows.push(await compareRates("404", "/missing.html", { failing: true }));
rows.push(await comparePace("200 MB, one client", "/large.bin", 1));
rows.push(await comparePace("200 MB, 8 clients at once", "/large.bin", 8));

const rules = JSON.parse(execFileSync(process.execPath, [here("rules.mjs")], { encoding: "utf8" }));
const listing = JSON.parse(execFileSync(process.execPath, [here("listing.mjs")], { encoding: "utf8" }));
const probe = JSON.parse(execFileSync(process.execPath, [here("probe.mjs")], { encoding: "utf8" }));
const ms = (value) => `${Math.round(value)} ms`;
const machine = `Node ${process.version}, ${cpus().length} cores (the load generator runs on them too), ${rounds} turns of ${seconds} s each, medians.`;
const table = `${formatTable(rows)}

A plan under 100 mounts and 1,000 areas takes ${rules.ratio.toFixed(2)} times one under a single mount (${(rules.manyNs / 1000).toFixed(1)} and ${(rules.oneNs / 1000).toFixed(1)} microseconds, in process, from memory).

A folder of 100,000 entries is listed, as HTML in pages of 500: the first page after ${ms(listing.first)} (the event loop stands still for ${ms(listing.firstStall)} at most), another page in ${ms(listing.again)}, the first by size, which wants the metadata of all, after ${ms(listing.bySize)} (${ms(listing.bySizeStall)}); memory grows by ${Math.round(listing.growth)} MB. Medians over seven fresh processes.

A test asks the demo 1,000 times through a probe, one after the other, with trace and a check, in ${ms(probe.probe)} (${ms(probe.probeFirst)} in a process that has just started); \`epistyle check\` runs 1,000 of its cases in process in ${ms(probe.runner)} (${ms(probe.runnerFirst)}).

${machine}`;
console.log(`\n${table}`);
if (options.write) writeTable(table);
process.exit(0);

/** What the library answers, for the ceiling to repeat field by field. */
async function recordAnswers(paths) {
  const recorded = {};
  for (const path of paths) {
    const url = `http://127.0.0.1:${PORTS.live}${path}`;
    // The client of this platform would ask for a coding by itself.
    const plain = { "accept-encoding": "identity" };
    const response = await fetch(url, { method: "HEAD", headers: plain });
    const lines = (r) =>
      [...r.headers].filter(([name]) => !/^(date|connection|keep-alive)$/.test(name)).flat();
    const tag = response.headers.get("etag");
    const current =
      tag === null ? undefined : await fetch(url, { headers: { ...plain, "if-none-match": tag } });
    recorded[path] = {
      status: response.status,
      fields: lines(response),
      notModified: current && lines(current),
      ...(response.ok
        ? { file: join(folder, path) }
        : { body: await (await fetch(url, { headers: { accept: "*/*" } })).text() }),
    };
  }
  return recorded;
}

async function tagOf(port, path) {
  return (
    await fetch(`http://127.0.0.1:${port}${path}`, {
      method: "HEAD",
      headers: { "accept-encoding": "identity" },
    })
  ).headers.get("etag");
}

/** The three in turn, so that a change of the machine's speed meets all of them. */
async function compareRates(title, path, { tagged = false, failing = false } = {}) {
  const turns = { ceiling: [], handwritten: [], live: [] };
  for (let round = 0; round <= rounds; round++) {
    for (const [name, port] of Object.entries(PORTS)) {
      const headers = tagged ? { "If-None-Match": (await tagOf(port, path)) ?? '"any"' } : {};
      const rate = await measureRate(`http://127.0.0.1:${port}${path}`, {
        seconds: round === 0 ? 1 : seconds,
        headers,
        failing,
      });
      // The first round warms up.
      if (round > 0) turns[name].push(rate);
    }
    process.stderr.write(".");
  }
  return { title, unit: "requests/s", ...summarise(turns) };
}

/** Compressed answers after the first, beside the same file as it is: what a coding costs once it is made. */
async function compareCompressed() {
  const url = `http://127.0.0.1:${PORTS.live}/16k.html`;
  const turns = { coded: [], plain: [] };
  for (let round = 0; round <= rounds; round++) {
    for (const [name, headers] of [
      ["coded", { "Accept-Encoding": "br" }],
      ["plain", {}],
    ]) {
      const rate = await measureRate(url, { seconds: round === 0 ? 1 : seconds, headers });
      if (round > 0) turns[name].push(rate);
    }
    process.stderr.write(".");
  }
  const ratio = median(turns.coded.map((value, i) => value / turns.plain[i]));
  return {
    title: "16 KiB, compressed",
    text: `${Math.round(median(turns.coded)).toLocaleString("en-GB")} requests/s: ${ratio.toFixed(2)} of the same file as it is`,
  };
}

async function comparePace(title, path, clients) {
  const turns = { ceiling: [], handwritten: [], live: [] };
  // A program that has done nothing yet: its peak is this answer's.
  programs.shift().stop();
  const live = await startProgram(here("live.mjs"), folder, String(PORTS.live));
  programs.unshift(live);
  await (await fetch(`http://127.0.0.1:${PORTS.live}/1k.html`)).text();
  const before = readPeakMemory(live.pid);
  // One download is short, so it takes more turns.
  for (let round = 0; round <= Math.ceil((rounds * 4) / clients); round++) {
    for (const [name, port] of Object.entries(PORTS)) {
      const pace = await measurePace(port, path, clients);
      if (round > 0) turns[name].push(pace);
    }
    process.stderr.write(".");
  }
  const growth = readPeakMemory(live.pid) - before;
  return { title, unit: "MB/s", ...summarise(turns), growth };
}

function summarise(turns) {
  const pairs = (a, b) => median(turns[a].map((value, i) => value / turns[b][i]));
  return {
    live: median(turns.live),
    ofCeiling: pairs("live", "ceiling"),
    ofHandwritten: pairs("live", "handwritten"),
    ceiling: median(turns.ceiling),
    handwritten: median(turns.handwritten),
  };
}

function formatTable(all) {
  const number = (n) => Math.round(n).toLocaleString("en-GB");
  const lines = all.map((row) => {
    if (row.text !== undefined) return `| ${row.title} | ${row.text} | | |`;
    const growth = row.growth === undefined ? "" : `; peak memory + ${row.growth.toFixed(0)} MB`;
    return `| ${row.title} | ${number(row.live)} ${row.unit}${growth} | ${row.ofCeiling.toFixed(2)} (${number(row.ceiling)}) | ${row.ofHandwritten.toFixed(2)} (${number(row.handwritten)}) |`;
  });
  return [
    "| answer | live folder | of the ceiling | of handwritten |",
    "| --- | --- | --- | --- |",
    ...lines,
  ].join("\n");
}

function writeTable(text) {
  const file = join(root, "docs", "performance.md");
  const [begin, end] = ["<!-- table -->", "<!-- end of table -->"];
  const doc = readFileSync(file, "utf8");
  writeFileSync(
    file,
    `${doc.slice(0, doc.indexOf(begin) + begin.length)}\n${text}\n${doc.slice(doc.indexOf(end))}`,
  );
}
