// A host in the style of Fetch: a Request in, a Response out.
import { createServer } from "node:http";
import { join } from "node:path";
import { createRequestListener } from "@remix-run/node-fetch-server";
import { openSite } from "epistyle";
import { loadConfigFile } from "epistyle/node";
import { webHandler } from "epistyle/web";
import { AutoRouter } from "itty-router";

export async function makeServer() {
  const site = await openSite(await loadConfigFile(join(import.meta.dirname, "epistyle.config.yaml")));
  const router = AutoRouter({ before: [webHandler(site)] });
  router.get("/api/birds", () => ["curlew", "rook"]);
  return createServer(createRequestListener((request) => router.fetch(request)));
}
