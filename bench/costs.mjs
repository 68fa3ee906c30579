// What is paid only by who uses it: each measured off and on. Usage: node costs.mjs FOLDER.
// Prints microseconds of one answer in process: { name: { off, on } }, each the least of many turns taken one after the other.
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";
import { makeAsk } from "./in-process.mjs";

const TURNS = 24;
const REQUESTS = 1000;

const folder = process.argv[2];
writeFileSync(join(folder, "nameless"), Buffer.alloc(1024, "x"));
writeFileSync(join(folder, "text.html"), "a page of words that get smaller; ".repeat(480));
const site = await openSite({ mounts: [{ folder }] });
const plain = await openSite({ mounts: [{ folder, codings: { compress: false } }] });
// A copy of a site has no keeper: each answer takes the full way.
const full = { ...site };

const plan =
  (target, headers = {}, from = site) =>
  async () => {
    const answer = await from.respond({ method: "GET", target, headers });
    if (answer.body.kind === "file") answer.body.file.close();
  };
const explained = async () => {
  const { answer } = await site.explain({ method: "GET", target: "/1k.html", headers: {} });
  if (answer.body.kind === "file") answer.body.file.close();
};
const withMetrics = () => {
  site.memory.metrics();
  return plan("/1k.html")();
};
const gzip = { "accept-encoding": "gzip" };
const kinds = {
  "a trace": [plan("/1k.html"), explained],
  "a type read from the bytes": [plan("/1k.html"), plan("/nameless")],
  "a coding made on the fly": [plan("/text.html", gzip, plain), plan("/text.html", gzip)],
  "onResponse, of a kept answer": [
    makeAsk(nodeHandler(site), "/1k.html"),
    makeAsk(nodeHandler(site, { onResponse() {} }), "/1k.html"),
  ],
  "onResponse, the full way": [
    makeAsk(nodeHandler(full), "/1k.html"),
    makeAsk(nodeHandler(full, { onResponse() {} }), "/1k.html"),
  ],
  "metrics asked for each time": [plan("/1k.html"), withMetrics],
};

async function time(call) {
  const started = process.hrtime.bigint();
  for (let i = 0; i < REQUESTS; i++) await call();
  return Number(process.hrtime.bigint() - started) / REQUESTS / 1000;
}

const least = Object.fromEntries(
  Object.keys(kinds).map((name) => [name, { off: Number.POSITIVE_INFINITY, on: Number.POSITIVE_INFINITY }]),
);
for (let turn = 0; turn < TURNS; turn++)
  for (const [name, [off, on]] of Object.entries(kinds)) {
    least[name].off = Math.min(least[name].off, await time(off));
    least[name].on = Math.min(least[name].on, await time(on));
  }
console.log(JSON.stringify(least));
