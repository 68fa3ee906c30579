// npm run demo: installs, builds, makes the demo data, and serves it.
import { spawn } from "node:child_process";
import { build, installPackages, root, run } from "./setup.mjs";

installPackages();
build();
run(process.execPath, ["demo/make/make.mjs"]);
const demo = spawn(process.execPath, ["dist/cli/main.js", "demo", ...process.argv.slice(2)], {
  cwd: root,
  stdio: "inherit",
});
// Ctrl-C reaches the demo by itself; a signal to npm alone has to be handed on.
process.on("SIGINT", () => {});
process.on("SIGTERM", () => demo.kill("SIGTERM"));
demo.on("exit", (code) => process.exit(code ?? 0));
