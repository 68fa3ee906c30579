import { mkdirSync } from "node:fs";
import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";
import { takeUpload } from "./uploads.mjs";

export async function makeServer() {
  const uploads = join(import.meta.dirname, "uploads");
  mkdirSync(uploads, { recursive: true });
  const site = await openSite(await loadConfigFile(join(import.meta.dirname, "epistyle.config.yaml")));
  const files = nodeHandler(site);
  return createServer((request, response) => {
    if (request.method === "PUT" && request.url.startsWith("/uploads/"))
      takeUpload(request, response, uploads);
    else files(request, response);
  });
}
