// A chain of (req, res, next) handlers.
import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";
import polka from "polka";

export async function makeServer() {
  const site = await openSite(await loadConfigFile(join(import.meta.dirname, "epistyle.config.yaml")));
  const application = polka()
    .use(nodeHandler(site))
    .get("/api/birds", (_request, response) => {
      response.writeHead(200, { "Content-Type": "application/json" }).end('["curlew","rook"]');
    });
  return createServer(application.handler);
}
