// Starts servers of one release store: each a process of its own, with a cache on disk of its own.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const program = fileURLToPath(new URL("../../dist/cli/bin.js", import.meta.url));

/** Starts one; port 0 is a free one. `log` is told each line that it prints. */
export async function startStoreServer({ place, folder, port, environment = {}, log = () => {}, args = [] }) {
  const child = spawn(
    process.execPath,
    [
      ...[
        program,
        "serve",
        "--store",
        place,
        "--cache",
        join(folder, `cache-${port}`),
        "--port",
        String(port),
      ],
      ...["--health", "/health", "--proxies", "1", "--log", "json", ...args],
    ],
    { cwd: folder, env: { ...process.env, ...environment }, stdio: ["ignore", "pipe", "pipe"] },
  );
  const lines = (stream, tell) => {
    let rest = "";
    stream.setEncoding("utf8").on("data", (text) => {
      const all = (rest + text).split("\n");
      rest = all.pop();
      for (const line of all) tell(line);
    });
  };
  lines(child.stdout, log);
  let said = "";
  const listening = new Promise((resolve, reject) => {
    child.once("exit", () => reject(new Error(said)));
    lines(child.stderr, (line) => {
      said += `${line}\n`;
      const found = /Listening on http:\/\/127\.0\.0\.1:(\d+)/.exec(line);
      if (found !== null) resolve(Number(found[1]));
      else log(line);
    });
  });
  return {
    child,
    port: await listening,
    async stop(signal = "SIGTERM") {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill(signal);
      await ended;
    },
  };
}
