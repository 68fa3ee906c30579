// A folder of 100,000 entries: how long its first page takes, and how long the event loop stands still meanwhile.
// Usage: node listing.mjs. Prints medians over fresh processes, in milliseconds, and the growth of memory, in MB.
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { monitorEventLoopDelay } from "node:perf_hooks";
import { openSite } from "epistyle";

const ENTRIES = 100_000;
const RUNS = 7;

if (process.argv[2] === undefined) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-listing-"));
  try {
    for (let i = 0; i < ENTRIES; i++) writeFileSync(join(folder, `record-${(i * 7919) % ENTRIES}.csv`), "");
    mkdirSync(join(folder, "sub"));
    const runs = Array.from({ length: RUNS }, () =>
      JSON.parse(execFileSync(process.execPath, [process.argv[1], folder], { encoding: "utf8" })),
    );
    const median = (key) => runs.map((run) => run[key]).sort((a, b) => a - b)[Math.floor(RUNS / 2)];
    console.log(JSON.stringify(Object.fromEntries(Object.keys(runs[0]).map((key) => [key, median(key)]))));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
} else {
  const site = await openSite({ mounts: [{ folder: process.argv[2], listing: true }] });
  const ask = (target) => site.respond({ method: "GET", target, headers: { accept: "text/html" } });
  const time = async (target) => {
    const started = performance.now();
    const { status, body } = await ask(target);
    if (status !== 200 || body.bytes.length < 10_000) throw new Error(`${target}: ${status}`);
    return performance.now() - started;
  };
  const small = await openSite({ mounts: [{ folder: join(process.argv[2], "sub"), listing: true }] });
  await small.respond({ method: "GET", target: "/", headers: { accept: "text/html" } });
  const before = process.memoryUsage().rss;
  const delay = monitorEventLoopDelay({ resolution: 1 });
  delay.enable();
  const first = await time("/");
  delay.disable();
  const firstStall = delay.max / 1e6;
  const again = await time("/?page=2");
  delay.reset();
  delay.enable();
  const bySize = await time("/?order=size");
  delay.disable();
  const growth = (process.memoryUsage().rss - before) / 1e6;
  console.log(JSON.stringify({ first, firstStall, again, bySize, bySizeStall: delay.max / 1e6, growth }));
}
