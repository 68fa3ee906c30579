// Starts one of Debian's shared caches before the replicas, with the configuration that lies beside this file.
import { spawn } from "node:child_process";
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { request } from "node:http";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { fileURLToPath } from "node:url";

const CACHES = {
  squid: {
    program: "/usr/sbin/squid",
    config: "squid.conf",
    // A service of its own name: another one may run on this machine, and shares memory by it.
    args: ({ file, port }) => ["-N", "-d1", "-n", `larkholm${port}`, "-f", file],
  },
  varnish: {
    program: "/usr/sbin/varnishd",
    config: "site.vcl",
    args: ({ file, folder, port }) => [
      ...["-F", "-j", "none", "-n", join(folder, "varnish"), "-f", file],
      ...["-a", `127.0.0.1:${port}`, "-s", "malloc,256m", "-t", "0", "-p", "http_gzip_support=off"],
    ],
  },
};

export const cacheNames = Object.keys(CACHES);

/** Where Debian puts a cache's program. */
export const findProgram = (name) => CACHES[name].program;

/** Starts a cache; `replicas` are the ports of two. Gives its address, and how to end it. */
export async function startCache(name, { folder, port, replicas }) {
  const { program, config, args } = CACHES[name];
  const text = await readFile(fileURLToPath(new URL(config, import.meta.url)), "utf8");
  const ports = { 8080: port, 8081: replicas[0], 8082: replicas[1] };
  const file = join(folder, config);
  await mkdir(join(folder, name), { recursive: true });
  await writeFile(
    file,
    text.replace(/\b808[012]\b/g, (known) => ports[known]),
  );
  const child = spawn(program, args({ file, folder, port }), { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => (said += chunk));
  const failed = new Promise((_, reject) => {
    child.once("error", reject);
    child.once("exit", (code, signal) => {
      const told = said.trim().split("\n").slice(-20).join("\n");
      reject(new Error(`${program} ended (${signal ?? `status ${code}`}):\n${told || "It said nothing."}`));
    });
  });
  failed.catch(() => {});
  await Promise.race([listening(port), failed]);
  return {
    url: `http://127.0.0.1:${port}`,
    async close() {
      if (child.exitCode !== null) return;
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

// The caches open their port when they are ready for requests.
async function listening(port) {
  for (let tries = 0; tries < 600; tries++) {
    const answers = await new Promise((resolve) => {
      const sent = request({ port, path: "/", method: "HEAD", agent: false }, (answer) => {
        answer.resume();
        resolve(answer.statusCode < 500);
      });
      sent.on("error", () => resolve(false)).end();
    });
    if (answers) return;
    await wait(50);
  }
  throw new Error(`Nothing answers on port ${port}.`);
}
