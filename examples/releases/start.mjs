// Starts an object store, two servers of its present release and a shared cache before them; publishes two releases, and goes back.
// Usage: node examples/releases/start.mjs [folder]: with "folder" the store is a folder of this machine.
import { existsSync } from "node:fs";
import { chmod, mkdir, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { prepare } from "../../tools/setup.mjs";
import { findProgram, startCache } from "../replicas/caches.mjs";
import { findMissing, startObjectStore } from "./object-store.mjs";
import { buildSeason } from "./season.mjs";

const [kind = "object-store"] = process.argv.slice(2);
if (kind !== "object-store" && kind !== "folder")
  fail(`Found "${kind}"; write folder, or nothing for the object store.`);
const missing = kind === "folder" ? undefined : findMissing();
if (missing !== undefined) fail(`${missing}\nOr write: node examples/releases/start.mjs folder`);

prepare();
const { publish, switchRelease } = await import("epistyle/store");
const { startStoreServer } = await import("./servers.mjs");
const folder = await mkdtemp(join(tmpdir(), "epistyle-releases-"));
// The object store runs as a user of its own.
await chmod(folder, 0o755);
const ends = [() => rm(folder, { recursive: true, force: true })];
const stop = async () => {
  for (const end of ends.splice(0).reverse()) await end();
};
for (const signal of ["SIGINT", "SIGTERM"]) process.once(signal, () => stop().then(() => process.exit()));

try {
  const { environment, place } = await openPlace();
  for (const edition of [1, 2]) await buildSeason(join(folder, `build-${edition}`), edition);
  await publishEdition(1, place);
  for (const port of [8081, 8082]) {
    const server = await startStoreServer({
      place,
      folder,
      port,
      environment,
      log: (line) => tell(port, line),
    });
    ends.push(() => server.stop());
  }
  const url = await openFront();
  console.log(`\nOpen ${url}/ to see which edition the servers answer. Twenty seconds for each step:`);
  await wait(20_000);
  await publishEdition(2, place);
  await wait(20_000);
  console.log("Going back to release 1:");
  await switchRelease(place, 1);
  console.log(`Release 1 is present.

The store stays open: ${place}
${Object.entries(environment)
  .map(([name, value]) => `  export ${name}=${value}`)
  .join("\n")}
  npx epistyle releases --store ${place}

Stop with Ctrl-C.`);
} catch (error) {
  console.error(error.message);
  await stop();
  process.exit(2);
}

async function openPlace() {
  if (kind === "folder") return { environment: {}, place: join(folder, "store") };
  const objects = join(folder, "objects");
  await mkdir(objects);
  const store = await startObjectStore(objects);
  ends.push(() => store.stop());
  // Publishing happens in this process.
  Object.assign(process.env, store.environment);
  return store;
}

// A shared cache where one is installed, else the first server.
async function openFront() {
  const name = ["varnish", "squid"].find((one) => existsSync(findProgram(one)));
  if (name === undefined) return "http://127.0.0.1:8081";
  const cache = await startCache(name, { folder, port: 8080, replicas: [8081, 8082] });
  ends.push(() => cache.close());
  return cache.url;
}

async function publishEdition(edition, place) {
  const { number, files, sent } = await publish(
    { mounts: [{ folder: join(folder, `build-${edition}`) }] },
    { store: place },
  );
  console.log(`Release ${number} is present: ${files} files, ${sent.files} of them sent.`);
}

// Requests are not told here, and what changes is.
function tell(port, line) {
  if (!line.startsWith("{")) console.log(`server ${port}: ${line}`);
}

function fail(text) {
  console.error(text);
  process.exit(2);
}
