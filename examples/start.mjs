// What the examples' start files have in common: they install and build what is missing, listen, and say what is worth opening. Of packages
// nothing is loaded before that.
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { prepare } from "../tools/setup.mjs";

/** Starts the example of a folder. `paths` are addresses worth opening, each with a word about it; `file` makes the server. */
export async function start(title, folder, paths, file = "server.mjs") {
  prepare();
  const { build, makeServer } = await import(pathToFileURL(join(folder, file)).href);
  await build?.();
  const port = Number(process.env.PORT ?? 8080);
  const server = await makeServer();
  server.once("error", (error) => {
    const inUse = error.code === "EADDRINUSE";
    console.error(inUse ? `Port ${port} is in use; choose another: PORT=0 takes a free one.` : error.message);
    process.exit(2);
  });
  server.listen(port, "127.0.0.1", () => {
    const address = `http://127.0.0.1:${server.address().port}`;
    const rows = Object.entries(paths).map(([path, what]) => `  ${(address + path).padEnd(56)}${what}`);
    console.log(`${title} listens on ${address}/\n\nWorth opening:\n${rows.join("\n")}\n`);
  });
  for (const signal of ["SIGINT", "SIGTERM"]) {
    process.once(signal, () => {
      server.close();
      setInterval(() => server.closeIdleConnections(), 50).unref();
    });
  }
}
