import { readdirSync, truncateSync, writeFileSync } from "node:fs";
import { createServer, get, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { type AddressInfo, connect } from "node:net";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import polka, { type Router } from "polka";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { fileHandler, nodeHandler, type ResponseRecord, startServer } from "../src/adapters/node.js";
import { webFileHandler, webHandler } from "../src/adapters/web.js";
import { memorySource, releasePlan, type Site } from "../src/index.js";
import { openSite } from "./counting-source.js";
import { makeTree } from "./helpers.js";

const LARGE = 24 * 1024 * 1024;
const openDescriptors = (): string[] => readdirSync("/proc/self/fd");

let tree: Awaited<ReturnType<typeof makeTree>>;
let site: Site;
let running: Awaited<ReturnType<typeof startServer>>;
let records: ResponseRecord[];

beforeAll(async () => {
  const large = Buffer.alloc(LARGE);
  for (let i = 0; i < LARGE; i += 4) large.writeUInt32LE(i, i);
  tree = await makeTree({
    "index.html": "<h1>home</h1>",
    "empty.txt": "",
    "ö.txt": "umlaut",
    "large.bin": large,
    "sub/index.html": "sub",
  });
  site = await openSite({ mounts: [{ folder: tree.root }] });
  records = [];
  running = await startServer(site, { port: 0, onResponse: (record) => records.push(record) });
});
afterAll(async () => {
  await running.close();
  await tree.remove();
});

/** Sends bytes as they are and gives back everything until the server closes or nothing comes for a while. */
function exchange(port: number, text: string): Promise<string> {
  return new Promise((resolve) => {
    let received = "";
    const socket = connect(port, "127.0.0.1", () => socket.write(text, "latin1"));
    socket.setTimeout(5000, () => socket.destroy());
    socket.on("data", (chunk) => {
      received += chunk.toString("latin1");
    });
    socket.on("close", () => resolve(received));
  });
}

describe("over node:http", () => {
  test("a file, with its fields", async () => {
    const response = await fetch(running.url);
    expect(response.status).toBe(200);
    expect(await response.text()).toBe("<h1>home</h1>");
    expect(Object.fromEntries(response.headers)).toMatchObject({
      "content-type": "text/html; charset=utf-8",
      "content-length": "13",
      "cache-control": "no-cache",
      "x-content-type-options": "nosniff",
    });
    const again = await fetch(running.url, { headers: { "if-none-match": response.headers.get("etag")! } });
    expect([again.status, await again.text()]).toEqual([304, ""]);
  });

  test("a large file arrives whole", async () => {
    const bytes = Buffer.from(await (await fetch(`${running.url}large.bin`)).arrayBuffer());
    expect(bytes.length).toBe(LARGE);
    for (let i = 0; i < LARGE; i += 65_536) expect(bytes.readUInt32LE(i)).toBe(i);
  });

  test.each([
    ["an empty file", "GET /empty.txt HTTP/1.1", /^HTTP\/1.1 200 .*Content-Length: 0\r\n/s],
    [
      "HEAD has the length and no body",
      "HEAD / HTTP/1.1",
      /^HTTP\/1.1 200 .*Content-Length: 13\r\n.*\r\n\r\n$/s,
    ],
    [
      "the redirect's Location is relative",
      "GET /sub?x HTTP/1.1",
      /^HTTP\/1.1 301 .*Location: \.\/sub\/\?x\r\n/s,
    ],
    ["nothing behind: a miss is answered", "GET /nope HTTP/1.1", /^HTTP\/1.1 404 /],
    ["absolute form", "GET http://x.test/empty.txt HTTP/1.1", /^HTTP\/1.1 200 /],
    ["dots do not lead out", "GET /../../etc/passwd HTTP/1.1", /^HTTP\/1.1 400 /],
    ["OPTIONS *", "OPTIONS * HTTP/1.1", /^HTTP\/1.1 204 .*Allow: GET, HEAD, OPTIONS\r\n/s],
    ["HTTP/1.0", "GET / HTTP/1.0", /^HTTP\/1.1 200 .*<h1>home<\/h1>$/s],
  ])("%s", async (_sentence, line, expected) => {
    expect(await exchange(running.port, `${line}\r\nHost: x\r\nConnection: close\r\n\r\n`)).toMatch(expected);
  });

  test("requests one after the other on one connection, a body on a GET among them", async () => {
    const one = "GET /empty.txt HTTP/1.1\r\nHost: x\r\n";
    const answers = await exchange(
      running.port,
      `${one}Content-Length: 5\r\n\r\nhello${one}\r\nHEAD / HTTP/1.1\r\nHost: x\r\n\r\n${one}Connection: close\r\n\r\n`,
    );
    expect(answers.match(/HTTP\/1\.1 200/g)).toHaveLength(4);
  });

  test("a client that leaves leaves no descriptor open, and the record says so", async () => {
    const before = openDescriptors().length;
    records.length = 0;
    await Promise.all(
      Array.from(
        { length: 20 },
        () =>
          new Promise<void>((resolve) => {
            get(`${running.url}large.bin`, (response) => response.once("data", () => response.destroy()))
              .on("close", resolve)
              .on("error", () => {});
          }),
      ),
    );
    for (let i = 0; i < 100 && (records.length < 20 || openDescriptors().length > before); i++)
      await wait(20);
    expect(records.map(({ delivery }) => delivery.complete)).toEqual(Array(20).fill(false));
    expect(openDescriptors().length).toBeLessThanOrEqual(before);
  });

  test("a slow client holds up nobody, and only so much is read ahead for it", async () => {
    const before = process.memoryUsage().rss;
    const slow = Array.from({ length: 8 }, () => {
      const socket = connect(running.port, "127.0.0.1", () =>
        socket.write("GET /large.bin HTTP/1.1\r\nHost: x\r\n\r\n"),
      );
      socket.pause();
      return socket;
    });
    await wait(300);
    expect((await fetch(running.url)).status).toBe(200);
    expect(process.memoryUsage().rss - before).toBeLessThan(8 * 8 * 1024 * 1024);
    for (const socket of slow) socket.destroy();
  });

  test("a file that shrinks while it is sent ends the connection", async () => {
    const file = join(tree.root, "shrinking.bin");
    writeFileSync(file, Buffer.alloc(LARGE));
    const received = await new Promise<number>((resolve) => {
      let count = 0;
      get(`${running.url}shrinking.bin`, (response) => {
        response.once("data", () => truncateSync(file, 1000));
        response.on("data", (chunk: Buffer) => {
          count += chunk.length;
        });
        response.on("error", () => {});
        response.on("close", () => resolve(count));
      });
    });
    expect(received).toBeLessThan(LARGE);
  });

  test("stopping lets a response under way finish", async () => {
    const own = await startServer(site, { port: 0 });
    const response = await fetch(`${own.url}large.bin`);
    const closed = own.close();
    expect((await response.arrayBuffer()).byteLength).toBe(LARGE);
    await closed;
    await expect(fetch(own.url)).rejects.toThrow();
  });
});

describe("in a chain of handlers", () => {
  let server: Server;
  let url: string;
  beforeAll(async () => {
    const handler = nodeHandler(site);
    server = createServer((request, response) => {
      // A host that mounts handlers under a prefix, as hosts do.
      const host = request as typeof request & { originalUrl?: string };
      if (request.url?.startsWith("/static")) {
        host.originalUrl = request.url;
        request.url = request.url.slice("/static".length);
        if (!request.url.startsWith("/")) request.url = `/${request.url}`;
      }
      handler(request, response, (error) =>
        response.writeHead(error ? 500 : 299).end(`application: ${request.method} ${request.url}`),
      );
    });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    server.close();
    server.closeAllConnections();
  });

  test.each([
    ["a file is the site's", "GET", "/index.html", 200, "<h1>home</h1>"],
    ["a miss is the application's", "GET", "/api/birds", 299, "application: GET /api/birds"],
    ["so is another method", "POST", "/index.html", 299, "application: POST /index.html"],
    ["so is an address no file has", "GET", "/api/a%2Fb", 299, "application: GET /api/a%2Fb"],
    ["a file under a stripped prefix", "GET", "/static/index.html", 200, "<h1>home</h1>"],
    ["a directory under a stripped prefix", "GET", "/static/sub/", 200, "sub"],
    ["a redirect keeps the prefix, and leads to the page", "GET", "/static/sub", 200, "sub"],
    ["the prefix itself gets its slash", "GET", "/static", 200, "<h1>home</h1>"],
    ["the prefix with a query", "GET", "/static?a=b", 200, "<h1>home</h1>"],
  ])("%s", async (_sentence, method, path, status, body) => {
    const response = await fetch(url + path, { method });
    expect([response.status, await response.text()]).toEqual([status, body]);
    if (path.startsWith("/static?")) expect(response.url).toBe(`${url}/static/?a=b`);
  });
});

test("the site's own error page after the application's routes, in each host, with one site", async () => {
  const own = await openSite({
    mounts: [
      {
        source: memorySource({ "index.html": "home", "404.html": "gone" }),
        errorPages: { 404: "/404.html" },
      },
    ],
  });
  const files = nodeHandler(own);
  const last = (request: IncomingMessage, response: ServerResponse): void => files(request, response);
  // This host runs all handlers before any route; what no route answers is left to `onNoMatch`.
  const app = polka({ onNoMatch: last })
    .use(files)
    .get("/about", (_request, response) => void response.end("rendered"));
  const plain = createServer((request, response) =>
    files(request, response, () =>
      request.url === "/about" ? void response.end("rendered") : last(request, response),
    ),
  );
  const fetchHandler = async (request: Request): Promise<Response> => {
    const routes = (): Response | undefined =>
      new URL(request.url).pathname === "/about" ? new Response("rendered") : undefined;
    return (
      (await webHandler(own)(request)) ?? routes() ?? (await webHandler(own, { mayPass: false })(request))!
    );
  };
  await Promise.all([
    new Promise<void>((done) => app.listen(0, "127.0.0.1", () => done())),
    new Promise<void>((done) => plain.listen(0, "127.0.0.1", done)),
  ]);
  const over = (server: Server) => (path: string) =>
    fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}${path}`);
  for (const ask of [
    over(app.server as Server),
    over(plain),
    (path: string) => fetchHandler(new Request(`http://x.test${path}`)),
  ]) {
    const told = await Promise.all(
      ["/", "/about", "/nope"].map(async (path) => {
        const answer = await ask(path);
        return `${answer.status} ${await answer.text()}`;
      }),
    );
    expect(told).toEqual(["200 home", "200 rendered", "404 gone"]);
  }
  for (const server of [app.server as Server, plain]) {
    server.closeAllConnections();
    server.close();
  }
});

describe("in a general framework", () => {
  let app: Router;
  let url: string;
  beforeAll(async () => {
    app = polka()
      .get("/api/birds", (_request, response) => void response.end("birds"))
      .get("/home", fileHandler(site, "/index.html"))
      .use("/static", nodeHandler(site))
      .use(
        "/own",
        nodeHandler(
          await openSite({
            mounts: [
              {
                source: memorySource({ "404.html": "gone" }),
                whenMissing: "answer",
                errorPages: { 404: "/404.html" },
              },
            ],
          }),
        ),
      )
      .use(nodeHandler(site))
      .get("/about", (_request, response) => void response.end("rendered"));
    await new Promise<void>((resolve) => app.listen(0, "127.0.0.1", () => resolve()));
    url = `http://127.0.0.1:${(app.server!.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    app.server!.closeAllConnections();
    app.server!.close();
  });

  test.each([
    ["a route of the framework", "/api/birds", 200, "birds"],
    ["a route behind the site", "/about", 200, "rendered"],
    ["a file under a prefix that the framework takes off", "/static/index.html", 200, "<h1>home</h1>"],
    ["a directory there gets its slash", "/static/sub?q", 200, "sub"],
    ["a file", "/sub/", 200, "sub"],
    ["one file on one route", "/home", 200, "<h1>home</h1>"],
    ["a miss is the framework's", "/nope", 404, "Not Found"],
    ["a miss under a site that answers itself, and the routes behind it", "/own/about", 404, "gone"],
  ])("%s", async (_sentence, path, status, body) => {
    const response = await fetch(url + path);
    expect([response.status, await response.text()]).toEqual([status, body]);
    if (path.endsWith("?q")) expect(response.url).toBe(`${url}/static/sub/?q`);
  });
});

describe("one file on one route", () => {
  const ask = async (path: string, method = "GET", headers = {}, mayPass = false): Promise<string> => {
    const answer = await site.file(path).respond({ method, target: "/anything?at=all", headers, mayPass });
    releasePlan(answer);
    return answer.kind === "pass"
      ? `pass ${answer.reason.code}`
      : `${answer.status} ${answer.file ?? answer.reason.code}`;
  };

  test.each<[string, string, Parameters<typeof ask>]>([
    ["the file", "200 index.html", ["/index.html"]],
    ["HEAD", "200 index.html", ["/index.html", "HEAD"]],
    ["a current copy", "304 index.html", ["/index.html", "GET", { "If-None-Match": "*" }]],
    ["another method", "405 method-not-allowed", ["/index.html", "POST"]],
    ["another method, passed on", "pass method-passed-on", ["/index.html", "POST", {}, true]],
    ["a missing file", "404 no-such-file", ["/later.html"]],
    ["a missing file, passed on", "pass no-such-file", ["/later.html", "GET", {}, true]],
    ["no default document stands in for it", "404 no-default-document", ["/sub"]],
    ["a withheld file", "404 withheld", ["/.env"]],
  ])("%s", async (_sentence, expected, request) => {
    expect(await ask(...request)).toBe(expected);
  });

  test.each([
    ["index.html", 'found "index.html"; it starts at the site\'s root: write "/index.html".'],
    ["/sub/", 'found "/sub/"; write the address of one file, not escaped, such as "/reports/season.pdf".'],
    ["/../x", "write the address of one file"],
  ])("%s is a mistake of the program, told when the route is made", (path, message) => {
    expect(() => fileHandler(site, path)).toThrow(message);
    expect(() => webFileHandler(site, path)).toThrow(message);
  });

  test("as a Fetch handler", async () => {
    const response = await webFileHandler(site, "/index.html")(new Request("http://x.test/any"));
    expect([response?.status, await response?.text()]).toEqual([200, "<h1>home</h1>"]);
  });
});

describe("as a Fetch handler", () => {
  const handle = (request: Request): Promise<Response | undefined> => webHandler(site)(request);

  test.each([
    ["a file", new Request("http://x.test/index.html"), 200, "<h1>home</h1>"],
    ["HEAD", new Request("http://x.test/", { method: "HEAD" }), 200, ""],
    ["a redirect", new Request("http://x.test/sub"), 301, ""],
    ["a current copy", new Request("http://x.test/", { headers: { "If-None-Match": "*" } }), 304, ""],
  ])("%s", async (_sentence, request, status, body) => {
    const response = (await handle(request))!;
    expect([response.status, await response.text()]).toEqual([status, body]);
  });

  test("what is not the site's is nothing", async () => {
    expect(await handle(new Request("http://x.test/nope"))).toBeUndefined();
    expect(await handle(new Request("http://x.test/", { method: "POST", body: "x" }))).toBeUndefined();
    expect((await webHandler(site, { mayPass: false })(new Request("http://x.test/nope")))?.status).toBe(404);
  });

  test("a large file is read as it is asked for; cancelling or never reading leaves nothing open", async () => {
    const before = openDescriptors().length;
    const whole = await (await handle(new Request("http://x.test/large.bin")))!.arrayBuffer();
    expect(whole.byteLength).toBe(LARGE);
    const reader = (await handle(new Request("http://x.test/large.bin")))!.body!.getReader();
    await reader.read();
    await reader.cancel();
    const controller = new AbortController();
    await handle(new Request("http://x.test/large.bin", { signal: controller.signal }));
    controller.abort();
    await wait(20);
    expect(openDescriptors().length).toBeLessThanOrEqual(before);
  });
});
