// `serve --workers` with one and with two. Usage: node workers.mjs. Prints, for each: the most answers a second of a small file and of
// a list of 500 entries, and milliseconds of the list under a load held to a rate that one cannot carry.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { root } from "../tools/setup.mjs";
import { measureRate, measureSteady, median } from "./measure.mjs";

const PORT = 18_310;
const SECONDS = 4;
const ROUNDS = 5;

const folder = mkdtempSync(join(tmpdir(), "epistyle-workers-"));
for (let i = 0; i < 500; i++) writeFileSync(join(folder, `record-${i}.csv`), "x".repeat(i % 97));
writeFileSync(join(folder, "small.html"), "<p>Larkholm".padEnd(4096));
try {
  const turns = { 1: [], 2: [] };
  let rate;
  for (let round = 0; round < ROUNDS; round++)
    for (const count of [1, 2]) {
      const stop = await serve(count);
      const most = async (path) =>
        (await measureRate(`http://127.0.0.1:${PORT}${path}`, { pid: process.pid, seconds: 2 })).rate;
      const [small, list] = [await most("/small.html"), await most("/")];
      // A third more than one carries, as it was found out in the first turn.
      rate ??= Math.round((list * 4) / 3);
      turns[count].push({ small, list, ...(await measureSteady(PORT, "/", rate, SECONDS)) });
      await stop();
    }
  const metrics = (count) =>
    Object.fromEntries(
      ["small", "list", "p50", "p99"].map((key) => [key, median(turns[count].map((one) => one[key]))]),
    );
  console.log(JSON.stringify({ rate, one: metrics(1), two: metrics(2) }));
} finally {
  rmSync(folder, { recursive: true, force: true });
}

async function serve(workers) {
  const options = ["--listing", "--log", "off", "--port", String(PORT), "--workers", String(workers)];
  const child = spawn(process.execPath, [join(root, "dist/cli/bin.js"), "serve", folder, ...options], {
    stdio: ["ignore", "pipe", "pipe"],
  });
  let said = "";
  await new Promise((done, failed) => {
    child.once("exit", () => failed(new Error(said)));
    // Which process listens the first one says, and how many there are the one that started them.
    for (const stream of [child.stdout, child.stderr])
      stream.on("data", (text) => {
        said += text;
        if (said.includes("Listening on") && (workers === 1 || said.includes(`${workers} workers`))) done();
      });
  });
  return () =>
    new Promise((done) => {
      child.once("exit", done);
      child.kill("SIGTERM");
    });
}
