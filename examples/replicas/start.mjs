// Starts two replicas of the observatory's site and a shared cache before them. Usage: node examples/replicas/start.mjs [squid|varnish]
import { existsSync } from "node:fs";
import { mkdtemp, readFile, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { prepare } from "../../tools/setup.mjs";
import { cacheNames, findProgram, startCache } from "./caches.mjs";

prepare();
if (!existsSync(join(import.meta.dirname, "../observatory/dist/guide")))
  await import("../observatory/build.mjs");
const { startReplicas } = await import("./replicas.mjs");

const [name = "varnish"] = process.argv.slice(2);
const wrong = findMistake();
if (wrong !== undefined) {
  console.error(wrong);
  process.exit(2);
}

const config = await readFile(fileURLToPath(new URL("epistyle.config.yaml", import.meta.url)), "utf8");
const folder = await mkdtemp(join(tmpdir(), "epistyle-replicas-"));
let replicas = [];
let cache;
const stop = async () => {
  await cache?.close();
  await Promise.all(replicas.map((one) => one.stop()));
  await rm(folder, { recursive: true, force: true });
};
try {
  replicas = await startReplicas({ folder, ports: [8081, 8082], config, log: print });
  cache = await startCache(name, { folder, port: 8080, replicas: [8081, 8082] });
} catch (error) {
  console.error(error.message);
  await stop();
  process.exit(2);
}
console.log(`
${name} listens on ${cache.url}/, before replicas on ports 8081 and 8082. What reaches a replica is printed here.

Worth trying:
  curl -sI ${cache.url}/            twice: the second answer comes from the cache
  kill ${replicas[0].pid}                             ends the first replica: everything is still answered

Stop with Ctrl-C.`);
for (const signal of ["SIGINT", "SIGTERM"]) process.once(signal, stop);

function print(replica, line) {
  const { status, method, target, file, why } = JSON.parse(line);
  console.log(`replica ${replica + 1}  ${status}  ${method} ${target}  ${file ?? why}`);
}

function findMistake() {
  if (!cacheNames.includes(name)) return `Found "${name}"; write one of ${cacheNames.join(", ")}.`;
  if (!existsSync(findProgram(name))) return `${name} is not installed: apt-get install ${name}`;
  return undefined;
}
