// Starts equal replicas of one site: each a process of its own, on a copy of its own.
import { spawn } from "node:child_process";
import { cp, mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { sightings } from "../observatory/api.mjs";

const here = (path) => fileURLToPath(new URL(path, import.meta.url));
const program = here("../../dist/cli/bin.js");
export const observatory = here("../observatory/dist");

/**
 * Copies a site (the folders `guide` and `explorer`) into `folder` once for each port, and serves each copy. The copies have the times at which they
 * were made, as a deployment's have. `config` is the text of the configuration; `log` is told each line that a replica logs.
 */
export async function startReplicas({ folder, ports, config, site = observatory, log = () => {} }) {
  const replicas = await Promise.all(
    ports.map(async (port, index) => {
      const own = join(folder, `replica-${index + 1}`);
      for (const part of ["guide", "explorer"])
        await cp(join(site, part), join(own, part), { recursive: true });
      await writeRecords(join(own, "api"));
      await writeFile(join(own, "epistyle.config.yaml"), config);
      return makeReplica({ folder: own, port, log: (line) => log(index, line) });
    }),
  );
  try {
    await Promise.all(replicas.map((one) => one.start()));
  } catch (error) {
    await Promise.all(replicas.map((one) => one.stop()));
    throw error;
  }
  return replicas;
}

// The explorer's records as files: what never changes needs no application.
async function writeRecords(folder) {
  await mkdir(join(folder, "sightings"), { recursive: true });
  const write = (name, value) => writeFile(join(folder, `${name}.json`), JSON.stringify(value));
  await write("sightings", sightings);
  await Promise.all(sightings.map((one) => write(`sightings/${one.id}`, one)));
}

function makeReplica({ folder, port, log }) {
  let child;
  const args = ["serve", "--health", "/health", "--proxies", "1", "--log", "json"];
  const replica = {
    folder,
    port,
    pid: undefined,
    async start() {
      child = spawn(process.execPath, [program, ...args, "--port", String(replica.port)], {
        cwd: folder,
        stdio: ["ignore", "pipe", "pipe"],
      });
      replica.pid = child.pid;
      child.stdout.setEncoding("utf8");
      let rest = "";
      child.stdout.on("data", (text) => {
        const lines = (rest + text).split("\n");
        rest = lines.pop();
        for (const line of lines) log(line);
      });
      let said = "";
      await new Promise((resolve, reject) => {
        child.once("exit", () => reject(new Error(said)));
        child.stderr.on("data", (text) => {
          said += text;
          const listening = /Listening on http:\/\/127\.0\.0\.1:(\d+)/.exec(said);
          if (listening === null) return;
          replica.port = Number(listening[1]);
          resolve();
        });
      });
    },
    async stop() {
      if (child === undefined || child.exitCode !== null) return;
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
    },
  };
  return replica;
}
