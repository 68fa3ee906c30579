// What a shared cache takes off two replicas. Usage: node bench/replicas.mjs [--seconds N]. Asks for all addresses of the observatory
// evenly, first one replica, then each of the caches of examples/replicas; prints answers a second, and how many reached replicas.
import { execFile } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { parseArgs, promisify } from "node:util";
import { cacheNames, startCache } from "../examples/replicas/caches.mjs";
import { observatory, startReplicas } from "../examples/replicas/replicas.mjs";
import { build, installDebianPackages, installPackages, installTestPartners, run } from "../tools/setup.mjs";

const { values } = parseArgs({ options: { seconds: { type: "string", default: "20" } } });
const seconds = Number(values.seconds);
/** How long the caches keep a page, in seconds; what has a fingerprint is kept for good. */
const LIFETIME = 5;
const CONFIG = {
  mounts: [
    {
      folder: "guide",
      errorPages: { 404: "/404.html" },
      caching: [
        { files: "fingerprinted", policy: "immutable" },
        { files: "**", policy: { maxAge: `${LIFETIME}s` }, cdn: { maxAge: `${LIFETIME}s` } },
      ],
    },
    { at: "/explorer", folder: "explorer", kind: "app" },
  ],
};

installPackages();
installDebianPackages({ wrk: "/usr/bin/wrk" });
installTestPartners();
build();
if (!existsSync(observatory)) run(process.execPath, ["examples/observatory/build.mjs"]);

const folder = mkdtempSync(join(tmpdir(), "epistyle-replicas-"));
const addresses = readdirSync(join(observatory, "guide"), { recursive: true, withFileTypes: true })
  .filter((entry) => entry.isFile() && entry.name !== "404.html")
  .map((entry) => join(entry.parentPath, entry.name).slice(join(observatory, "guide").length))
  .map((path) => path.split("/").map(encodeURIComponent).join("/"));

let reached = 0;
const replicas = await startReplicas({
  folder,
  ports: [18_081, 18_082],
  config: JSON.stringify(CONFIG),
  log: () => {
    reached++;
  },
});
try {
  const figures = { addresses: addresses.length, lifetimeSeconds: LIFETIME };
  figures["one replica"] = await load(`http://127.0.0.1:${replicas[0].port}`);
  for (const name of cacheNames) {
    const cache = await startCache(name, {
      folder,
      port: 18_080,
      replicas: replicas.map(({ port }) => port),
    });
    figures[name] = await load(cache.url);
    await cache.close();
  }
  console.log(JSON.stringify(figures, null, 2));
} finally {
  await Promise.all(replicas.map((one) => one.stop()));
  rmSync(folder, { recursive: true, force: true });
}

async function load(url) {
  const lua = join(import.meta.dirname, "addresses.lua");
  const wrk = async (duration) =>
    (await promisify(execFile)("wrk", ["-t1", "-c32", `-d${duration}s`, "-s", lua, url, "--", ...addresses]))
      .stdout;
  await wrk(2);
  reached = 0;
  const said = await wrk(seconds);
  if (/Non-2xx|Socket errors/.test(said)) throw new Error(said);
  const perSecond = (count) => Math.round((count / seconds) * 10) / 10;
  return {
    answers: perSecond(Number(/(\d+) requests in/.exec(said)[1])),
    reachedReplicas: perSecond(reached),
  };
}
