// npm run soak: a server under a mixed load for ten minutes, while its files are exchanged underneath. Each body must be one of the
// versions that existed, descriptors must come back to what they were, and memory must level off. Ends by itself, with status 1 when
// one of these does not hold.
// Then the commands live through what a week brings (soak/life.mjs): descriptors, sockets and memory must come back, too.
//   --minutes N   how long (default 10)
import { fork, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { parseArgs } from "node:util";
import { build, installDebianPackages, installPackages } from "../tools/setup.mjs";
import { Clients } from "./clients.mjs";
import { live } from "./life.mjs";
import { Versions } from "./versions.mjs";

installPackages();
installDebianPackages({ wrk: "/usr/bin/wrk" });
build();

const { values: options } = parseArgs({ options: { minutes: { type: "string", default: "10" } } });
const seconds = Number(options.minutes) * 60;
const MB = 1_000_000;
/** The last third of a run may hold so much more than the one before it. */
const GROWTH_AT_MOST = 1.1;

const folder = mkdtempSync(join(tmpdir(), "epistyle-soak-"));
const versions = new Versions(folder);
const server = fork(join(import.meta.dirname, "server.mjs"), [folder]);
const [{ port }] = await once(server, "message");
const ask = async () => {
  server.send("metrics");
  return (await once(server, "message"))[0];
};
const before = await ask();
const clients = new Clients(port, versions);
clients.start();
const duration = `${seconds}s`;
const loads = ["index.html", "records/1.txt", "records/2.txt", "none"].map((path) =>
  spawn("wrk", ["-t1", "-c8", `-d${duration}`, `http://127.0.0.1:${port}/${path}`], { stdio: "ignore" }),
);

const samples = [];
const started = Date.now();
let exchanged = 0;
for (let next = 5; Date.now() - started < seconds * 1000; ) {
  versions.exchange(exchanged++ % versions.names.length);
  await wait(20);
  const elapsed = (Date.now() - started) / 1000;
  if (elapsed < next) continue;
  next += 5;
  const metrics = await ask();
  samples.push(metrics.rss);
  if (samples.length % 6 === 0) {
    const told = Object.entries(metrics.answers).map(
      ([key, count]) => `${key} ${count.toLocaleString("en-GB")}`,
    );
    console.log(
      `${Math.round(elapsed)} s: ${Math.round(metrics.rss / MB)} MB resident, ${Math.round(metrics.heapUsed / MB)} MB heap, ${Math.round(metrics.external / MB)} MB buffers, ${metrics.descriptors} descriptors; ${told.join(", ")}`,
    );
  }
}
clients.stop();
for (const load of loads) if (load.exitCode === null) await once(load, "exit");
await wait(8000);
const after = await ask();
server.disconnect();
rmSync(folder, { recursive: true, force: true });

const third = Math.floor(samples.length / 3);
const median = (all) => [...all].sort((a, b) => a - b)[all.length >> 1];
const [middle, last] = [median(samples.slice(third, 2 * third)), median(samples.slice(2 * third))];
const checked = [...clients.counts]
  .map(([kind, count]) => `${kind} ${count.toLocaleString("en-GB")}`)
  .join(", ");
console.log(`Own clients: ${checked}; ${exchanged.toLocaleString("en-GB")} exchanges of files.`);
console.log(
  after.metrics.map(({ name, used, bound, unit }) => `${name}: ${used} of ${bound} ${unit}`).join("\n"),
);
console.log(`Bodies that never existed, and answers that were wrong: ${clients.wrong.length}.`);
for (const one of clients.wrong.slice(0, 10)) console.log(`  ${one}`);
console.log(`Descriptors: ${before.descriptors} before, ${after.descriptors} after.`);
console.log(
  `Resident memory: ${Math.round(before.rss / MB)} MB before, ${Math.round(middle / MB)} MB in the second third, ${Math.round(last / MB)} MB in the last (medians), ${Math.round(after.rss / MB)} MB after.`,
);
const holds =
  clients.wrong.length === 0 &&
  after.descriptors <= before.descriptors + 1 &&
  last <= middle * GROWTH_AT_MOST;

// A round takes some seconds.
const rounds = Math.max(4, Math.round(seconds / 15));
const life = await live({
  rounds,
  onRound(round, secure, withLab) {
    if (round % 5 !== 0) return;
    const tell = ({ descriptors, sockets, bytes }) =>
      `${descriptors} descriptors, ${sockets} sockets, ${Math.round(bytes / MB)} MB`;
    console.log(`Round ${round} of ${rounds}: workers ${tell(secure)}; with a lab ${tell(withLab)}.`);
  },
});
const part = Math.floor(rounds / 3);
const [second, end] = [median(life.memory.slice(part, 2 * part)), median(life.memory.slice(2 * part))];
const [[workers, lab], [workersAfter, labAfter]] = [life.before, life.after];
console.log(
  `A week: ${rounds} rounds; workers ${workers.descriptors} descriptors before, ${workersAfter.descriptors} after; with a lab ${lab.descriptors} and ${labAfter.descriptors}; memory ${Math.round(second / MB)} MB in the second third, ${Math.round(end / MB)} MB in the last (medians).`,
);
for (const one of life.wrong) console.log(`  ${one}`);
const lives =
  life.wrong.length === 0 &&
  workersAfter.sockets <= workers.sockets + 2 &&
  labAfter.descriptors <= lab.descriptors + 2 &&
  end <= second * GROWTH_AT_MOST;
console.log(holds && lives ? "All of it holds." : "It does not hold.");
process.exit(holds && lives ? 0 : 1);
