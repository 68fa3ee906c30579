// npm run demo: installs, builds, makes the demo data, builds the example application from it, and starts that.
import { spawn } from "node:child_process";
import { createServer } from "node:net";
import { build, installPackages, root, run } from "./setup.mjs";

const PORT = await choosePort(Number(process.env.PORT ?? 8080));
installPackages();
build();
run(process.execPath, ["demo/make/make.mjs"]);
run(process.execPath, ["examples/observatory/build.mjs"]);
const demo = spawn(process.execPath, ["examples/observatory/start.mjs"], {
  cwd: root,
  stdio: "inherit",
  env: { ...process.env, PORT: String(PORT) },
});
// Ctrl-C reaches the demo by itself; a signal to npm alone has to be passed on.
process.on("SIGINT", () => {});
process.on("SIGTERM", () => demo.kill("SIGTERM"));
demo.on("exit", (code) => process.exit(code ?? 0));

/** The port that is wanted, or 0 for a free one where somebody listens there: found out before anything is built. */
function choosePort(wanted) {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once("error", () => {
      console.log(`Port ${wanted} is in use; the demo takes a free one.`);
      resolve(0);
    });
    probe.listen(wanted, "127.0.0.1", () => probe.close(() => resolve(wanted)));
  });
}
