// One node:http server: a JSON API, a single-page application under /explorer, and files to browse under /archive, a multi-page site for the rest.
import { createServer } from "node:http";
import { openSite } from "epistyle";
import { fileHandler, nodeHandler } from "epistyle/node";
import { answerApi } from "./api.mjs";

export const site = await openSite({
  base: import.meta.url,
  mounts: [
    {
      at: "/",
      folder: "./dist/guide",
      errorPages: { 404: "/404.html" },
      caching: [{ files: "fingerprinted", policy: "immutable" }],
    },
    {
      at: "/archive",
      folder: "../../demo/archive",
      kind: "archive",
      listing: { title: "Larkholm archive" },
    },
    { at: "/explorer", folder: "./dist/explorer", kind: "app" },
  ],
});

/** Makes the server; `onResponse` is told of each answer from a file. */
export function makeServer(options = {}) {
  const files = nodeHandler(site, options);
  const report = fileHandler(site, "/reports/Season report 2026.pdf", options);
  return createServer((request, response) => {
    if (/^\/api(\/|\?|$)/.test(request.url)) answerApi(request, response);
    else if (request.url === "/latest-report") report(request, response);
    else files(request, response);
  });
}
