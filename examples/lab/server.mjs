import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";

export { build } from "./build.mjs";

/** Any server of files will do: the page asks nothing of it but its own files. */
export async function makeServer() {
  return createServer(
    nodeHandler(await openSite({ mounts: [{ folder: join(import.meta.dirname, "dist") }] })),
  );
}
