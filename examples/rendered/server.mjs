import { readFile } from "node:fs/promises";
import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { loadConfigFile, nodeHandler } from "epistyle/node";
import { renderedPages } from "./rendered-pages.mjs";

export { build } from "./build.mjs";

export async function makeServer() {
  const here = import.meta.dirname;
  const files = nodeHandler(await openSite(await loadConfigFile(join(here, "epistyle.config.yaml"))));
  const template = await readFile(join(here, "dist/client/index.html"), "utf8");
  const { render } = await import(join(here, "dist/server/render.js"));
  const pages = nodeHandler(
    await openSite({
      protect: true,
      mounts: [
        {
          source: renderedPages(render, template),
          errorPages: { 404: "/404.html" },
          longAddresses: "redirect",
        },
      ],
    }),
  );
  return createServer((request, response) => files(request, response, () => pages(request, response)));
}
