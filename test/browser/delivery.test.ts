import { createReadStream } from "node:fs";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
// @ts-expect-error: the demo data is made by plain modules
import { recordCall } from "../../demo/make/sounds.mjs";
// @ts-expect-error: as above
import { species } from "../../demo/make/species.mjs";
import { nodeHandler, type ResponseRecord } from "../../src/adapters/node.js";
import { openSite } from "../../src/index.js";
import { makeTree } from "../helpers.js";
import { openBrowser } from "./browser.js";

let tree: Awaited<ReturnType<typeof makeTree>>;
let server: Server;
let url: string;
let browser: Awaited<ReturnType<typeof openBrowser>>;
const records: ResponseRecord[] = [];

beforeAll(async () => {
  const skylark = species.find(({ id }: { id: string }) => id === "skylark");
  tree = await makeTree({
    "index.html": '<!doctype html><title>player</title><audio src="/dawn.wav" preload="metadata"></audio>',
    "dawn.wav": recordCall(skylark, 240),
    "page.html": `<!doctype html><title>page</title><p>${"text ".repeat(500)}`,
    "worker.html": "<!doctype html><title>worker</title>",
    "worker.js": [
      'import { memorySource, openSite } from "/package/index.js";',
      'import { webHandler } from "/package/adapters/web.js";',
      'const opening = openSite({ mounts: [{ at: "/virtual", source: memorySource({ "digits.txt": "0123456789", "index.html": "<h1>from memory</h1>" }) }] });',
      "self.addEventListener('install', () => self.skipWaiting());",
      "self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));",
      "self.addEventListener('fetch', (event) => {",
      "  if (new URL(event.request.url).pathname.startsWith('/virtual')) event.respondWith(opening.then((site) => webHandler(site, { mayPass: false })(event.request)));",
      "});",
    ].join("\n"),
  });
  const site = await openSite({ mounts: [{ folder: tree.root }] });
  const handler = nodeHandler(site, { onResponse: (record) => records.push(record) });
  // The package as it is built, with its bare imports pointed at what the registry installed.
  server = createServer((request, response) => {
    if (!request.url!.startsWith("/package/")) return handler(request, response);
    response.setHeader("Content-Type", "text/javascript");
    createReadStream(join(".cache", "worker", request.url!.slice("/package/".length))).pipe(response);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  server.closeAllConnections();
  server.close();
  await tree.remove();
});

test("a recording plays, and seeks into its middle with a 206", async () => {
  const page = await browser.context.newPage();
  await page.goto(url);
  records.length = 0;
  const at = await page.evaluate(async () => {
    const audio = document.querySelector("audio")!;
    audio.muted = true;
    await audio.play();
    audio.currentTime = 200;
    await new Promise((resolve) => audio.addEventListener("seeked", resolve, { once: true }));
    await new Promise((resolve) => audio.addEventListener("timeupdate", resolve, { once: true }));
    return audio.currentTime;
  });
  expect(at).toBeGreaterThanOrEqual(200);
  await page.close();
  // The log has the answer to the seek once it ends, perhaps after the page was closed.
  const listStarts = (): number[] =>
    records
      .filter(({ delivery }) => delivery.status === 206)
      .map(({ request }) => Number(/^bytes=(\d+)-/.exec(String(request.headers.range))?.[1]));
  await expect.poll(() => listStarts().some((start) => start > 1_000_000), { timeout: 20_000 }).toBe(true);
});

test("a page is revalidated on reload, comes compressed, and reads the same", async () => {
  const page = await browser.context.newPage();
  records.length = 0;
  const first = await page.goto(`${url}/page.html`);
  expect(first!.headers()["content-encoding"]).toMatch(/^(br|gzip)$/);
  await page.goto(`${url}/index.html`);
  await page.goto(`${url}/page.html`);
  expect((await page.locator("p").textContent())!.trim().length).toBe(2499);
  const statuses = records
    .filter(({ request }) => request.target === "/page.html")
    .map(({ delivery }) => delivery.status);
  expect(statuses).toEqual([200, 304]);
  await page.close();
});

test("in a Service Worker the core answers from memory, with ranges and 304", async () => {
  const { build } = await import("vite");
  await build({
    configFile: false,
    logLevel: "error",
    build: {
      outDir: ".cache/worker",
      emptyOutDir: true,
      minify: false,
      lib: {
        entry: { index: "dist/index.js", "adapters/web": "dist/adapters/web.js" },
        formats: ["es"],
        fileName: (_format, name) => `${name}.js`,
      },
    },
  });
  const page = await browser.context.newPage();
  await page.goto(`${url}/worker.html`);
  await page.evaluate(async () => {
    await navigator.serviceWorker.register("/worker.js", { type: "module" });
    await navigator.serviceWorker.ready;
    if (navigator.serviceWorker.controller === null) {
      await new Promise((resolve) =>
        navigator.serviceWorker.addEventListener("controllerchange", resolve, { once: true }),
      );
    }
  });
  const answers = await page.evaluate(async () => {
    const ask = async (path: string, headers: Record<string, string> = {}) => {
      const response = await fetch(path, { headers, cache: "no-store" });
      return {
        status: response.status,
        type: response.headers.get("content-type"),
        range: response.headers.get("content-range"),
        etag: response.headers.get("etag"),
        body: await response.text(),
      };
    };
    const whole = await ask("/virtual/digits.txt");
    return {
      whole,
      part: await ask("/virtual/digits.txt", { Range: "bytes=2-4" }),
      current: await ask("/virtual/digits.txt", { "If-None-Match": whole.etag! }),
      directory: await ask("/virtual/"),
      missing: await ask("/virtual/nope"),
    };
  });
  expect(answers.whole).toMatchObject({ status: 200, type: "text/plain; charset=utf-8", body: "0123456789" });
  expect(answers.part).toMatchObject({ status: 206, range: "bytes 2-4/10", body: "234" });
  expect(answers.current).toMatchObject({ status: 304, body: "" });
  expect(answers.directory).toMatchObject({ status: 200, body: "<h1>from memory</h1>" });
  expect(answers.missing.status).toBe(404);
  expect((await page.goto(`${url}/virtual/`))!.status()).toBe(200);
  expect(await page.locator("h1").textContent()).toBe("from memory");
  await page.close();
});
