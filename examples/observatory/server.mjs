// One node:http server: a JSON API, a single-page application under /explorer, files to browse under /archive, and a
// multi-page site for the rest.
import { createServer } from "node:http";
import { fileURLToPath } from "node:url";
import { openSite } from "epistyle";
import { fileHandler, loadConfigFile, nodeHandler } from "epistyle/node";
import { answerApi } from "./api.mjs";

const config = fileURLToPath(new URL("epistyle.config.yaml", import.meta.url));
export const site = await openSite(await loadConfigFile(config));

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
