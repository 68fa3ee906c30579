// Runs the expectations of the demo and of the examples: in process, then against servers of their own.
import { spawn } from "node:child_process";
import { root, run } from "./setup.mjs";

const CLI = "dist/cli/bin.js";
const check = (...args) => run(process.execPath, [CLI, "check", ...args]);
const EXAMPLES = [
  "examples/observatory/guide.expectations.yaml",
  "examples/observatory/explorer.expectations.yaml",
];

run(process.execPath, ["examples/observatory/build.mjs"]);
check("demo/expectations.yaml", ...EXAMPLES);
const survey = (config, ...more) =>
  run(process.execPath, [CLI, "survey", "--config", config, "--fail-on", "advice", ...more]);
survey("demo/epistyle.config.yaml", "--accept", "demo/survey.accept.yaml");
survey("examples/observatory/epistyle.config.yaml", "--accept", "demo/survey.accept.yaml");

const demo = await start("Listening on", [CLI, "demo", "--port", "0", "--log", "off"]);
const examples = await start("listens on", ["examples/observatory/start.mjs"], { PORT: "0" });
check("demo/expectations.yaml", "--against", demo);
check(...EXAMPLES, "--against", examples);

// Each example starts with one command. In process only those are checked whose configuration says all.
for (const [name, { inProcess = false }] of Object.entries({
  pages: { inProcess: true },
  rendered: { inProcess: true },
  archive: { inProcess: true },
  members: {},
  offline: {},
  fieldbook: {},
  lab: {},
})) {
  const file = `examples/${name}/expectations.yaml`;
  const { address, stop } = await startAndStop("listens on", [`examples/${name}/start.mjs`], { PORT: "0" });
  if (inProcess) check(file);
  check(file, "--against", address);
  stop();
}
process.exit(0);

/** Starts a server; gives its address once it says that it listens. It ends with this process. */
async function start(sign, args, env = {}) {
  return (await startAndStop(sign, args, env)).address;
}

async function startAndStop(sign, args, env) {
  const server = spawn(process.execPath, args, { cwd: root, env: { ...process.env, ...env } });
  process.on("exit", () => server.kill("SIGTERM"));
  return new Promise((resolve, reject) => {
    let text = "";
    server.stdout.on("data", (chunk) => {
      text += chunk;
      const match = new RegExp(`${sign} (\\S+)`).exec(text);
      if (match) resolve({ address: match[1], stop: () => server.kill("SIGTERM") });
    });
    server.stderr.pipe(process.stderr);
    server.once("exit", (code) => reject(new Error(`${args.join(" ")} ended with status ${code}:\n${text}`)));
  });
}
