import { readFile } from "node:fs/promises";
import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";

export { build } from "./build.mjs";

export async function makeServer() {
  const here = import.meta.dirname;
  const files = nodeHandler(await openSite(await loadConfigFile(join(here, "epistyle.config.yaml"))));
  const template = await readFile(join(here, "dist/client/index.html"), "utf8");
  const { render } = await import(join(here, "dist/server/render.js"));

  return createServer((request, response) => {
    files(request, response, () => {
      const { status, title, page } = render(request.url.replace(/\?.*/s, ""));
      response.writeHead(status, { "Content-Type": "text/html; charset=utf-8", "Cache-Control": "no-cache" });
      response.end(template.replace("<!--title-->", () => title).replace("<!--page-->", () => page));
    });
  });
}
