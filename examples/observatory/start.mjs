// Starts the example and says where it is; installs and builds before that what is missing.
import { existsSync } from "node:fs";
import { join } from "node:path";
import { prepare } from "../../tools/setup.mjs";

prepare();
if (!existsSync(join(import.meta.dirname, "dist/explorer/index.html"))) await import("./build.mjs");
const { makeServer, site } = await import("./server.mjs");

const port = Number(process.env.PORT ?? 8080);
for (const warning of site.warnings) console.warn(`Warning: ${warning}`);

const server = makeServer({
  onResponse({ request, delivery, answer, why }) {
    console.log(`${request.method} ${request.target}  ${delivery.status}  ${answer.file ?? `none: ${why}`}`);
  },
});
server.once("error", (error) => {
  const inUse = error.code === "EADDRINUSE";
  console.error(inUse ? `Port ${port} is in use; choose another: PORT=0 takes a free one.` : error.message);
  process.exit(2);
});
server.listen(port, "127.0.0.1", () => {
  const address = `http://127.0.0.1:${server.address().port}`;
  console.log(`The Larkholm Bird Observatory listens on ${address}/

Worth opening:
  ${address}/                           the field guide: a site of many pages
  ${address}/explorer/sightings/42      the sightings explorer: a deep link into one page
  ${address}/archive/2026/              the archive: a folder to browse
`);
});
for (const signal of ["SIGINT", "SIGTERM"]) {
  process.once(signal, () => {
    server.close();
    setInterval(() => server.closeIdleConnections(), 50).unref();
  });
}
