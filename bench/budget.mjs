// Where the time of one small answer goes: handlers called in this process, without a socket's cost. Usage: node budget.mjs FOLDER.
// Prints microseconds, each the least of many turns.
import { lstatSync, realpathSync } from "node:fs";
import { join } from "node:path";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";
import { makeAsk } from "./in-process.mjs";

const folder = process.argv[2];
const PATH = "/1k.html";
const TURNS = 24;
const REQUESTS = 3000;

const live = await openSite({ mounts: [{ folder }] });
const sealed = await openSite({ mounts: [{ folder }] }, { seal: true });
const answer = await live.respond({ method: "GET", target: PATH, headers: {} });
const fields = [...answer.fields].flatMap(({ name, value }) => [name, value]);
const bytes = Buffer.alloc(1024, "x");
answer.body.file.close();
const handlers = {
  bare: (_, response) => {
    response.writeHead(200, fields);
    response.end(bytes);
  },
  sealed: nodeHandler(sealed),
  live: nodeHandler(live),
  // A copy of a site has no keeper.
  full: nodeHandler({ ...live }),
};

const asks = Object.fromEntries(
  Object.entries(handlers).map(([name, handler]) => [name, makeAsk(handler, PATH)]),
);

/** Each in a turn of the event loop of its own, or all in one. */
async function time(ask, eachTurn) {
  let spent = 0;
  for (let i = 0; i < REQUESTS; i++) {
    const started = process.hrtime.bigint();
    await ask();
    spent += Number(process.hrtime.bigint() - started);
    if (eachTurn) await new Promise(setImmediate);
  }
  return spent / REQUESTS / 1000;
}

function timeCall(call) {
  let least = Number.POSITIVE_INFINITY;
  for (let turn = 0; turn < TURNS; turn++) {
    const started = process.hrtime.bigint();
    for (let i = 0; i < REQUESTS; i++) call();
    least = Math.min(least, Number(process.hrtime.bigint() - started) / REQUESTS / 1000);
  }
  return least;
}

const kinds = [
  ["bare", "bare", false],
  ["sealed", "sealed", false],
  ["shared", "live", false],
  ["live", "live", true],
  ["full", "full", false],
];
const least = Object.fromEntries(kinds.map(([name]) => [name, Number.POSITIVE_INFINITY]));
for (let turn = 0; turn < TURNS; turn++)
  for (const [name, handler, eachTurn] of kinds)
    least[name] = Math.min(least[name], await time(asks[handler], eachTurn));
const file = join(folder, PATH);
const stat = { bigint: true, throwIfNoEntry: false };
console.log(
  JSON.stringify({
    ...least,
    lstat: timeCall(() => lstatSync(file, stat)),
    realpath: timeCall(() => realpathSync.native(folder)),
  }),
);
