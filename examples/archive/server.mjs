import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";

export async function makeServer() {
  const site = await openSite(await loadConfigFile(join(import.meta.dirname, "epistyle.config.yaml")));
  return createServer(nodeHandler(site));
}
