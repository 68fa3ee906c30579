// The comparisons: each takes all programs in turn, so that a change of the machine's speed meets all of them.
import {
  holdClients,
  measurePace,
  measureRate,
  measureSteady,
  median,
  readMemory,
  readPeakMemory,
} from "./measure.mjs";

/** Requests a second of many small answers, and the processor time of one. */
export async function compareRates(
  programs,
  { title, path, seconds, rounds, tagged = false, failing = false, headers = {}, files },
) {
  const all = Object.fromEntries(programs.names.map((name) => [name, { rate: [], microseconds: [] }]));
  for (let round = -programs.copies.live.length; round < rounds; round++) {
    // In another order each time: what the machine does beside us keeps to none.
    for (const name of shuffle(programs.names)) {
      const copies = programs.copies[name];
      const { port, pid } = copies[(round + copies.length) % copies.length];
      const own = tagged ? { "If-None-Match": (await tagOf(port, path)) ?? '"any"' } : headers;
      const { rate, microseconds } = await measureRate(`http://127.0.0.1:${port}${path}`, {
        pid,
        seconds: round < 0 ? 1 : seconds,
        headers: own,
        failing,
        files,
      });
      // The first rounds warm up.
      if (round < 0) continue;
      all[name].rate.push(rate);
      all[name].microseconds.push(microseconds);
    }
    process.stderr.write(".");
  }
  const turns = Object.fromEntries(Object.entries(all).map(([name, { rate }]) => [name, rate]));
  const processor = Object.fromEntries(
    Object.entries(all).map(([name, { microseconds }]) => [name, median(microseconds)]),
  );
  return { title, unit: "requests/s", ...summarise(turns), processor };
}

/** Megabytes a second of one large file, and what the memory of the live server grows by. */
export async function comparePace(programs, { title, path, clients, rounds }) {
  const turns = Object.fromEntries(programs.names.map((name) => [name, []]));
  // A program that has done nothing yet: its peak is this answer's.
  const live = await programs.restart("live");
  await (await fetch(`http://127.0.0.1:${programs.ports.live}/1k.html`)).text();
  const before = readPeakMemory(live.pid);
  for (let round = 0; round <= rounds; round++) {
    for (const name of shuffle(programs.names)) {
      const pace = await measurePace(programs.ports[name], path, clients);
      if (round > 0) turns[name].push(pace);
    }
    process.stderr.write(".");
  }
  return { title, unit: "MB/s", ...summarise(turns), growth: readPeakMemory(live.pid) - before };
}

/** How long answers take under a steady load: the medians of p50 and p99, in milliseconds. */
export async function compareSteady(programs, { path, rate, seconds, rounds }) {
  const turns = Object.fromEntries(programs.names.map((name) => [name, []]));
  for (let round = 0; round <= rounds; round++)
    for (const name of shuffle(programs.names)) {
      const figures = await measureSteady(programs.ports[name], path, rate, seconds);
      if (round > 0) turns[name].push(figures);
    }
  process.stderr.write(".");
  const of = (name, key) => median(turns[name].map((one) => one[key]));
  return {
    rate,
    ...Object.fromEntries(
      programs.names.map((name) => [name, { p50: of(name, "p50"), p99: of(name, "p99") }]),
    ),
  };
}

/** Clients that read nothing of a large file: what memory grows by, and how long a quick client waits meanwhile. */
export async function compareSlow(programs, { path, clients }) {
  const figures = {};
  for (const name of ["live", "sealed"]) {
    const { pid } = await programs.restart(name);
    const port = programs.ports[name];
    for (let i = 0; i < 3; i++) await measureSteady(port, "/1k.html", 1000, 2);
    const alone = await measureSteady(port, "/1k.html", 1000, 3);
    const before = readMemory(pid);
    const letGo = await holdClients(port, path, clients);
    await new Promise((done) => setTimeout(done, 2000));
    const growth = readMemory(pid) - before;
    const beside = await measureSteady(port, "/1k.html", 1000, 3);
    letGo();
    figures[name] = { clients, growth, alone: alone.p99, beside: beside.p99 };
    process.stderr.write(".");
  }
  return figures;
}

function shuffle(all) {
  return all
    .map((one) => [Math.random(), one])
    .sort(([a], [b]) => a - b)
    .map(([, one]) => one);
}

async function tagOf(port, path) {
  const headers = { "accept-encoding": "identity" };
  return (await fetch(`http://127.0.0.1:${port}${path}`, { method: "HEAD", headers })).headers.get("etag");
}

function summarise(turns) {
  const ratios = (a, b) => turns[a].map((value, i) => value / turns[b][i]);
  const of = (name) => ({
    value: median(turns[name]),
    ofCeiling: median(ratios(name, "ceiling")),
    ofHandwritten: median(ratios(name, "handwritten")),
  });
  const summary = {
    live: of("live"),
    sealed: of("sealed"),
    ceiling: median(turns.ceiling),
    handwritten: median(turns.handwritten),
  };
  if (turns.other === undefined) return summary;
  const all = ratios("live", "other").sort((a, b) => a - b);
  return {
    ...summary,
    against: { all, half: [all[all.length >> 2], all[all.length - 1 - (all.length >> 2)]] },
  };
}
