import { createServer } from "node:http";
import { join } from "node:path";
import { openSite } from "epistyle";
import { fileHandler, loadConfigFile, nodeHandler } from "epistyle/node";
import { signIn, signOut, whoHas } from "./members.mjs";
import { renderPage } from "./page.mjs";

export async function makeServer() {
  const config = (name) => loadConfigFile(join(import.meta.dirname, name));
  const site = await openSite(await config("epistyle.config.yaml"));
  const shared = nodeHandler(await openSite(await config("shared.config.yaml")));
  const report = fileHandler(site, "/files/season-report.pdf", { saveAs: "Larkholm season report.pdf" });
  const chorus = fileHandler(site, "/files/dawn-chorus.wav");
  // A file of one member: whoever asks gets their own, and no address names another's.
  const rings = new Map(
    ["dunlin", "tern"].map((name) => [
      name,
      fileHandler(site, `/files/of/${name}/rings.csv`, { saveAs: "My rings.csv" }),
    ]),
  );
  const downloads = new Map([
    ["/downloads/report", () => report],
    ["/downloads/dawn-chorus", () => chorus],
    ["/downloads/my-rings", (name) => rings.get(name)],
  ]);

  return createServer((request, response) => {
    const path = request.url.replace(/\?.*/s, "");
    const session = readSession(request);
    const name = whoHas(session);
    const download = downloads.get(path);
    if (path === "/sign-in" && request.method === "POST") return takeSignIn(request, response);
    if (path === "/sign-out" && request.method === "POST") {
      signOut(session);
      return goHome(response, "session=; Max-Age=0; HttpOnly; SameSite=Strict; Path=/");
    }
    if (path === "/") return sendPage(response, 200, renderPage(name));
    if (download === undefined) return shared(request, response);
    if (name !== undefined) return download(name)(request, response);
    // The same for everybody who is not signed in, whether the file is there or not (RFC 9110 §15.5.2, RFC 6750 §3).
    sendPage(response, 401, renderPage(undefined, "Sign in first."), {
      "WWW-Authenticate": 'Bearer realm="Members of Larkholm"',
    });
  });
}

// Browsers send the session as a cookie, programs as a token.
function readSession({ headers: { cookie = "", authorization = "" } }) {
  return (/^Bearer +([\w-]+)$/i.exec(authorization) ?? /(?:^|; )session=([\w-]+)/.exec(cookie))?.[1];
}

async function takeSignIn(request, response) {
  let body = "";
  for await (const piece of request) {
    body += piece;
    if (body.length > 10_000) return request.destroy();
  }
  const form = new URLSearchParams(body);
  const id = signIn(form.get("name") ?? "", form.get("password") ?? "");
  if (id === undefined)
    return sendPage(response, 403, renderPage(undefined, "This name and password do not go together."));
  // Behind HTTPS, add: Secure.
  goHome(response, `session=${id}; Max-Age=3600; HttpOnly; SameSite=Strict; Path=/`);
}

function goHome(response, cookie) {
  response.writeHead(303, { Location: "/", "Set-Cookie": cookie }).end();
}

function sendPage(response, status, page, fields = {}) {
  response
    .writeHead(status, {
      "Content-Type": "text/html; charset=utf-8",
      "Cache-Control": "no-store",
      "Content-Security-Policy": "default-src 'self'; img-src data:; frame-ancestors 'none'",
      ...fields,
    })
    .end(page);
}
