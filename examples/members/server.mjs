import { randomUUID } from "node:crypto";
import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { fileHandler, loadConfigFile } from "epistyle/node";

const PAGE = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Members of Larkholm</title><link rel="icon" href="data:,"></head>
<body><h1>Members</h1>
<form method="post" action="/sign-in"><button>Sign in</button></form>
<ul><li><a href="/downloads/report">Season report</a></li><li><a href="/downloads/dawn-chorus">Dawn chorus</a></li></ul>
<audio controls preload="none" src="/downloads/dawn-chorus"></audio></body></html>`;

export async function makeServer() {
  const site = await openSite(await loadConfigFile(join(import.meta.dirname, "epistyle.config.yaml")));
  // A route has one file each, under a name that members know.
  const routes = new Map([
    [
      "/downloads/report",
      fileHandler(site, "/files/season-report.pdf", { saveAs: "Larkholm season report.pdf" }),
    ],
    ["/downloads/dawn-chorus", fileHandler(site, "/files/dawn-chorus.wav")],
  ]);
  const sessions = new Set();

  return createServer((request, response) => {
    const { method, url } = request;
    const session = /(?:^|; )session=([\w-]+)/.exec(request.headers.cookie ?? "")?.[1];
    const route = routes.get(url.replace(/\?.*/s, ""));
    if (url === "/sign-in" && method === "POST") {
      const id = randomUUID();
      sessions.add(id);
      const cookie = `session=${id}; HttpOnly; SameSite=Lax; Path=/`;
      response.writeHead(303, { Location: "/", "Set-Cookie": cookie }).end();
    } else if (route !== undefined && sessions.has(session)) {
      route(request, response);
    } else if (route !== undefined) {
      // The same for everybody who is not signed in, whether the file is there or not.
      response
        .writeHead(401, { "Content-Type": "text/plain", "Cache-Control": "no-store" })
        .end("Sign in first.\n");
    } else if (url === "/") {
      response
        .writeHead(200, { "Content-Type": "text/html; charset=utf-8", "Cache-Control": "no-store" })
        .end(PAGE);
    } else {
      response.writeHead(404, { "Content-Type": "text/plain" }).end("There is no such page.\n");
    }
  });
}
