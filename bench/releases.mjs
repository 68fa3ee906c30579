// Loads pages while releases are published and taken back: two servers of one store, and a shared cache before them where one is installed.
// Usage: node bench/releases.mjs [folder|object-store] [releases] [page loads]
// A page load fails when the page, or the bundle that it names, is not answered with 200 and its own bytes.
import { existsSync } from "node:fs";
import { chmod, mkdir, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { publish, switchRelease } from "epistyle/store";
import { startObjectStore } from "../examples/releases/object-store.mjs";
import { buildSeason } from "../examples/releases/season.mjs";
import { startStoreServer } from "../examples/releases/servers.mjs";
import { findProgram, startCache } from "../examples/replicas/caches.mjs";

const [kind = "folder", releases = "50", loads = "5000"] = process.argv.slice(2);
const folder = await mkdtemp(join(tmpdir(), "epistyle-releases-"));
// The object store runs as a user of its own.
await chmod(folder, 0o755);
const ends = [];
const counts = { loads: 0, failed: 0, mixed: 0 };
/** Why page loads failed, and how often. */
const causes = new Map();
const seconds = [];
try {
  const { environment, place } = await openPlace();
  await publishEdition(1, place);
  const servers = [];
  for (const port of [8081, 8082]) {
    const server = await startStoreServer({ place, folder, port, environment });
    ends.push(() => server.stop());
    servers.push(server);
  }
  const name = ["varnish", "squid"].find((one) => existsSync(findProgram(one)));
  const cache = name && (await startCache(name, { folder, port: 8080, replicas: [8081, 8082] }));
  if (cache) ends.push(() => cache.close());
  const url = cache?.url ?? "http://127.0.0.1:8081";
  let isDone = false;
  const loading = Promise.all(
    Array.from({ length: 8 }, async () => {
      while (!isDone || counts.loads < Number(loads)) await loadPage(url);
    }),
  );
  for (let edition = 2; edition <= Number(releases); edition++) {
    await time(() => publishEdition(edition, place));
    // Every fifth is taken back, and made present again by the next one.
    if (edition % 5 === 0) await time(() => switchRelease(place, edition - 1));
  }
  isDone = true;
  await loading;
  seconds.sort((a, b) => a - b);
  console.log(
    `${name ?? "no cache"}, ${kind}: ${counts.loads} page loads, ${counts.failed} failed, ${counts.mixed} mixed; ` +
      `${seconds.length} switches, ${seconds[seconds.length >> 1].toFixed(1)} s each (${seconds[0].toFixed(1)} to ${seconds.at(-1).toFixed(1)}).`,
  );
  for (const [cause, times] of causes) console.log(`${times} times: ${cause}`);
  if (counts.failed + counts.mixed > 0) process.exitCode = 1;
} finally {
  for (const end of ends.reverse()) await end();
  await rm(folder, { recursive: true, force: true });
}

async function openPlace() {
  if (kind === "folder") return { environment: {}, place: join(folder, "store") };
  await mkdir(join(folder, "objects"));
  const store = await startObjectStore(join(folder, "objects"));
  ends.push(() => store.stop());
  Object.assign(process.env, store.environment);
  return store;
}

async function publishEdition(edition, place) {
  const build = join(folder, `build-${edition}`);
  await buildSeason(build, edition);
  await publish({ mounts: [{ folder: build }] }, { store: place });
}

async function time(work) {
  const started = performance.now();
  await work();
  seconds.push((performance.now() - started) / 1000);
}

// As a browser does: the page, a little later the bundle that it names.
async function loadPage(url) {
  counts.loads++;
  try {
    const page = await fetch(`${url}/`);
    const text = await page.text();
    const edition = /edition (\d+)<\/title>/.exec(text)?.[1];
    const bundle = /data-bundle="([^"]+)"/.exec(text)?.[1];
    if (page.status !== 200 || edition === undefined || bundle === undefined) {
      fail(`the page, ${page.status}`);
      return;
    }
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 200));
    const answer = await fetch(url + bundle);
    const code = await answer.text();
    if (answer.status !== 200) fail(`the bundle, ${answer.status}`);
    else if (!code.includes(`edition = ${edition};`)) counts.mixed++;
  } catch (error) {
    fail(error.cause?.code ?? error.message);
  }
}

function fail(cause) {
  counts.failed++;
  causes.set(cause, (causes.get(cause) ?? 0) + 1);
}
