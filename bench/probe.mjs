// What tests cost: 1,000 requests of a probe around the demo, with trace and checks, and 1,000 cases of the runner.
// Usage: node probe.mjs. Prints milliseconds, medians of seven rounds after one to warm up, and the first round.
import { fileURLToPath } from "node:url";
import { openSite } from "epistyle";
import { loadConfigFile } from "epistyle/node";
import { askSite, expandCases, findUnmet, loadExpectations, openProbe, runCases } from "epistyle/testing";

const ROUNDS = 7;
const REQUESTS = 1000;
const PATHS = ["/", "/guide/waders/", "/visit", "/styles/larkholm.css", "/records/2026/season.json", "/nope"];
const demo = (name) => fileURLToPath(new URL(`../demo/${name}`, import.meta.url));

const site = await openSite(await loadConfigFile(demo("epistyle.config.yaml")));
const probe = await openProbe(site);
const asker = askSite(site);
const files = [];
for await (const file of site.files()) files.push(file);
const all = await expandCases(await loadExpectations(demo("expectations.yaml")), async () => files);
const cases = Array.from({ length: REQUESTS }, (_, index) => ({ ...all[index % all.length], followUps: [] }));

async function askProbe() {
  for (let i = 0; i < REQUESTS; i++) {
    const path = PATHS[i % PATHS.length];
    const answer = await probe.get(path, { Accept: "text/html" });
    if (findUnmet(answer, { status: path === "/nope" ? 404 : 200 }).length > 0) throw new Error(path);
  }
}

async function run() {
  const results = await runCases(cases, asker);
  if (results.some(({ outcome }) => outcome !== "passed")) throw new Error("a case failed");
}

async function time(work) {
  const started = performance.now();
  await work();
  return performance.now() - started;
}

const turns = { probe: [], runner: [] };
for (let round = 0; round <= ROUNDS; round++) {
  turns.probe.push(await time(askProbe));
  turns.runner.push(await time(run));
}
const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
console.log(
  JSON.stringify({
    probe: median(turns.probe.slice(1)),
    probeFirst: turns.probe[0],
    runner: median(turns.runner.slice(1)),
    runnerFirst: turns.runner[0],
  }),
);
