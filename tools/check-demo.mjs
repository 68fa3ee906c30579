// Runs demo/expectations.yaml in process, then against a server of its own.
import { spawn } from "node:child_process";
import { root, run } from "./setup.mjs";

const CLI = "dist/cli/main.js";
run(process.execPath, [CLI, "check", "demo/expectations.yaml"]);

const server = spawn(process.execPath, [CLI, "demo", "--port", "0", "--log", "off"], { cwd: root });
const url = await new Promise((resolve, reject) => {
  let text = "";
  server.stdout.on("data", (chunk) => {
    text += chunk;
    const match = /Listening on (\S+)/.exec(text);
    if (match) resolve(match[1]);
  });
  server.once("exit", (code) => reject(new Error(`The demo ended with status ${code}:\n${text}`)));
});
server.removeAllListeners("exit");
process.on("exit", () => server.kill("SIGTERM"));
run(process.execPath, [CLI, "check", "demo/expectations.yaml", "--against", url]);
server.kill("SIGTERM");
