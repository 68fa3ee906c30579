// npm run demo: installs, builds, makes the demo data, builds the example application from it, and starts that.
import { spawn } from "node:child_process";
import { build, installPackages, root, run } from "./setup.mjs";

installPackages();
build();
run(process.execPath, ["demo/make/make.mjs"]);
run(process.execPath, ["examples/observatory/build.mjs"]);
const demo = spawn(process.execPath, ["examples/observatory/start.mjs"], { cwd: root, stdio: "inherit" });
// Ctrl-C reaches the demo by itself; a signal to npm alone has to be handed on.
process.on("SIGINT", () => {});
process.on("SIGTERM", () => demo.kill("SIGTERM"));
demo.on("exit", (code) => process.exit(code ?? 0));
