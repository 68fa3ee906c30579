import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { nodeHandler } from "epistyle/node";
import config from "./site.js";

export { build } from "./build.mjs";

export async function makeServer() {
  const folder = join(import.meta.dirname, "dist");
  // The same rules as in the worker, over the folder; opening it checks them.
  const { mounts } = config(undefined);
  const site = await openSite({
    mounts: mounts.map(({ source: _source, ...mount }) => ({ ...mount, folder })),
  });
  return createServer(nodeHandler(site));
}
