// Two workers behind one address. Usage: node workers.mjs. Prints, for one and for two: the most answers a second of a list
// of 500 entries, and milliseconds under a load held to a rate that one cannot carry.
import cluster from "node:cluster";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";
import { measureRate, measureSteady, median } from "./measure.mjs";

const PORT = 18_310;
const TARGET = "/";
const SECONDS = 4;
const ROUNDS = 5;

if (cluster.isWorker) {
  const site = await openSite({ mounts: [{ folder: process.env.BENCH_FOLDER, listing: true }] });
  createServer(nodeHandler(site)).listen(PORT, "127.0.0.1");
} else {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-workers-"));
  for (let i = 0; i < 500; i++) writeFileSync(join(folder, `record-${i}.csv`), "x".repeat(i % 97));
  try {
    const turns = { 1: [], 2: [] };
    let rate;
    for (let round = 0; round < ROUNDS; round++)
      for (const count of [1, 2]) {
        const stop = await startWorkers(count, folder);
        const url = `http://127.0.0.1:${PORT}${TARGET}`;
        const most = (await measureRate(url, { pid: process.pid, seconds: 2 })).rate;
        // A third more than one carries, as it was found out in the first turn.
        rate ??= Math.round((most * 4) / 3);
        turns[count].push({ most, ...(await measureSteady(PORT, TARGET, rate, SECONDS)) });
        await stop();
      }
    const of = (count, key) => median(turns[count].map((one) => one[key]));
    const figures = (count) => ({ most: of(count, "most"), p50: of(count, "p50"), p99: of(count, "p99") });
    console.log(JSON.stringify({ rate, one: figures(1), two: figures(2) }));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

async function startWorkers(count, folder) {
  const workers = Array.from({ length: count }, () => cluster.fork({ BENCH_FOLDER: folder }));
  await Promise.all(workers.map((worker) => new Promise((done) => worker.once("listening", done))));
  return () =>
    Promise.all(
      workers.map(
        (worker) =>
          new Promise((done) => {
            worker.once("exit", done);
            worker.kill();
          }),
      ),
    );
}
