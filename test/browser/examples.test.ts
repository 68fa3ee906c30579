import { readFileSync, rmSync } from "node:fs";
import type { Server } from "node:http";
import { createRequire } from "node:module";
import type { AddressInfo } from "node:net";
import type { Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, expect, test } from "vitest";
import { openBrowser } from "./browser.js";

const AXE = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

interface Example {
  build?(): Promise<void>;
  makeServer(): Promise<Server>;
}

let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let server: Server;
const said: string[] = [];
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());
afterEach(async () => {
  await page.close();
  server.closeAllConnections();
  server.close();
});

/** Examples that were built already. */
const built = new Set<string>();

/** Builds and serves an example; gives its address. What goes wrong in the page is kept. */
async function open(name: string): Promise<string> {
  const path = `../../examples/${name}/server.mjs`;
  const example = (await import(/* @vite-ignore */ path)) as Example;
  if (!built.has(name)) await example.build?.();
  built.add(name);
  server = await example.makeServer();
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  page = await browser.context.newPage();
  said.length = 0;
  page.on("pageerror", ({ message }) => said.push(message));
  // A browser asks for an icon by itself.
  page.on(
    "console",
    (message) =>
      message.type() === "error" &&
      !message.location().url.endsWith("/favicon.ico") &&
      said.push(message.text()),
  );
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
const heading = (): Promise<string | null> => page.locator("h1").textContent();

test("a site of pages: short addresses, moved ones, and styles under each page's policy", async () => {
  const url = await open("pages");
  await page.goto(`${url}/species/curlew`);
  expect([page.url(), await heading()]).toEqual([`${url}/birds/curlew`, "Curlew"]);
  expect(await page.evaluate("getComputedStyle(document.querySelector('h1')).borderBottomWidth")).toBe("6px");
  expect(said).toEqual([]);
  const missing = await page.goto(`${url}/nothing`);
  expect([missing!.status(), await heading()]).toEqual([404, "No such page"]);
});

test("a server-rendered application: the page is there, and its script adds to it", async () => {
  const url = await open("rendered");
  await page.goto(`${url}/birds/curlew`);
  await page.getByRole("button", { name: "Seen again" }).click();
  expect([await heading(), await page.locator("output").textContent(), said]).toEqual(["Curlew", "13", []]);
});

test("downloads for members: nothing before, the file under its name after, and sound can be sought in", async () => {
  const url = await open("members");
  await page.goto(url);
  expect((await page.request.get(`${url}/downloads/report`)).status()).toBe(401);
  const signIn = async (name: string, password: string): Promise<void> => {
    await page.getByLabel("Name").fill(name);
    await page.getByLabel("Password").fill(password);
    await page.getByRole("button", { name: "Sign in" }).click();
  };
  await signIn("tern", "sea mist");
  expect(await page.getByRole("alert").textContent()).toContain("do not go together");
  await page.goto(url);
  await signIn("tern", "north hide");
  expect(await page.locator("main").textContent()).toContain("Signed in as tern");
  expect(await (await page.request.get(`${url}/downloads/my-rings`)).text()).toContain("LK 3301");
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Season report" }).click(),
  ]);
  expect(download.suggestedFilename()).toBe("Larkholm season report.pdf");
  const sought = await page.evaluate(`new Promise((done, fail) => {
    const sound = document.querySelector("audio");
    sound.onerror = () => fail(sound.error.message);
    sound.onseeked = () => done(sound.currentTime > 0.5);
    sound.onloadedmetadata = () => { sound.currentTime = sound.duration / 2; };
    sound.load();
  })`);
  expect(sought).toBe(true);
  await page.getByRole("button", { name: "Sign out" }).click();
  await page.getByLabel("Password").waitFor();
  expect((await page.request.get(`${url}/downloads/my-rings`)).status()).toBe(401);
});

test("an archive: the page reads the listing as JSON; people get it with the theme", async () => {
  const url = await open("archive");
  await page.goto(url);
  await page.getByRole("link", { name: "view from the hide.png" }).waitFor();
  expect(await page.locator("tbody tr").count()).toBe(2);
  // What is sent is there at once, as a download; nobody replaces it.
  const name = `count ${process.pid}.html`;
  const send = async (): Promise<string | null> => {
    await page
      .getByLabel("File, up to 5 MB")
      .setInputFiles({ name, mimeType: "text/html", buffer: Buffer.from("<script>alert(1)</script>") });
    await page.getByRole("button", { name: "Send" }).click();
    await page.getByRole("status").filter({ hasText: /there/i }).waitFor();
    return page.getByRole("status").textContent();
  };
  expect(await send()).toBe(`${name} is there.`);
  const sent = await page.request.get(`${url}/uploads/${name}`);
  expect([sent.status(), sent.headers()["content-disposition"]]).toEqual([
    200,
    expect.stringMatching(/^attachment/),
  ]);
  await page.goto(`${url}/uploads/`);
  await page.getByRole("link", { name }).waitFor();
  await page.goto(url);
  expect(await send()).toContain("There is such a file already");
  rmSync(`examples/archive/uploads/${name}`);
  said.length = 0;
  await page.goto(`${url}/records/2026/`);
  expect(await page.evaluate("getComputedStyle(document.querySelector('h1')).fontFamily")).toContain(
    "Georgia",
  );
  expect(said).toEqual([]);
});

test("a Service Worker answers off line: deep links, missing scripts and parts, as the server does", async () => {
  const url = await open("offline");
  await page.goto(`${url}/birds/curlew`);
  await page.locator("#state", { hasText: "also off line" }).waitFor();
  server.closeAllConnections();
  await new Promise<void>((done) => void server.close(() => done()));
  const response = await page.goto(`${url}/birds/rook`);
  expect([response!.status(), response!.fromServiceWorker(), await heading()]).toEqual([200, true, "rook"]);
  const ask = (path: string, headers = {}) =>
    page.evaluate(
      async ([path, headers]) => {
        const answer = await fetch(path as string, { headers: headers as Record<string, string> });
        return [answer.status, answer.headers.get("content-type"), (await answer.text()).length];
      },
      [path, headers] as const,
    );
  expect(await ask("/assets/none.js")).toEqual([404, expect.stringContaining("text/"), expect.any(Number)]);
  expect(await ask("/index.html", { range: "bytes=0-8" })).toEqual([206, "text/html; charset=utf-8", 9]);
});

test("the lab without a server: asks, and tells what a change would do", async () => {
  const url = await open("lab");
  await page.goto(`${url}/#target=/birds/curlew`);
  await page.locator(".status", { hasText: "301" }).waitFor();
  await page.goto(`${url}/#target=/guide/`);
  await page.locator(".changes h2", { hasText: "Nothing changes" }).waitFor();
  await page.getByRole("textbox", { name: "Configuration" }).click();
  await page.keyboard.press("Control+a");
  await page.keyboard.insertText("mounts: [{ folder: site, withheld: ['*.csv'] }]\n");
  await page.locator(".changes h2", { hasText: /\d+ addresses change: / }).waitFor();
  expect(said).toEqual([]);
});

test("a whole application: deep links, parts on demand, pictures, its error page, and an exchange of releases", async () => {
  const url = await open("fieldbook");
  await page.goto(`${url}/birds/curlew`);
  await page.getByRole("heading", { name: "Curlew" }).waitFor();
  await page.getByRole("cell", { name: "2026-05-14" }).waitFor();
  await page.getByRole("navigation").getByRole("link", { name: "Birds" }).click();
  await page.getByRole("heading", { name: "Birds of Larkholm" }).waitFor();
  await expect.poll(() => page.evaluate("document.querySelector('img').naturalWidth")).toBeGreaterThan(0);
  const bundle = (await page.evaluate("document.querySelector('script[type=module]').src")) as string;
  expect(said).toEqual([]);
  const missing = await page.goto(`${url}/assets/none.js`);
  expect([missing!.status(), await heading()]).toEqual([404, "Not found"]);
  const api = await page.request.get(`${url}/api/nothing`);
  expect([api.status(), api.headers()["content-type"]]).toEqual([404, "application/json"]);
  // The next release: its bundles are there, and those of the one before.
  const path = "../../examples/fieldbook/release.mjs";
  const { release } = (await import(/* @vite-ignore */ path)) as { release(): Promise<number> };
  await release();
  await page.goto(`${url}/sightings`);
  await page.getByRole("heading", { name: "Sightings" }).waitFor();
  expect((await page.request.get(bundle)).status()).toBe(200);
});

const PAGES: Readonly<Record<string, readonly string[]>> = {
  pages: ["/", "/birds/curlew", "/nothing"],
  rendered: ["/", "/birds/curlew", "/nothing"],
  archive: ["/", "/records/2026/", "/uploads/"],
  members: ["/", "/downloads/report"],
  offline: ["/"],
  fieldbook: ["/", "/birds/curlew", "/sightings", "/assets/none.js"],
};
test.each(Object.entries(PAGES))(
  "everybody can use %s, in light and dark, wide and on a telephone",
  async (name, paths) => {
    const url = await open(name);
    for (const [colorScheme, width] of [
      ["light", 1280],
      ["dark", 390],
    ] as const) {
      await page.emulateMedia({ colorScheme });
      await page.setViewportSize({ width, height: 844 });
      for (const path of paths) {
        await page.goto(url + path, { waitUntil: "networkidle" });
        // The policy lets no script of anyone else's run, so the checker comes in from outside the page.
        const found = await page.evaluate(
          `(() => { ${AXE}; return axe.run().then(({ violations }) => violations.map(({ id, nodes }) => id + " " + nodes[0].html)) })()`,
        );
        const isWide = await page.evaluate("document.documentElement.scrollWidth > innerWidth");
        expect([path, width, found, isWide]).toEqual([path, width, [], false]);
      }
    }
  },
);
