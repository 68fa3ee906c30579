import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import type { Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, expect, test } from "vitest";
import { openBrowser } from "./browser.js";

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

/** Builds and serves an example; gives its address. What goes wrong in the page is kept. */
async function open(name: string): Promise<string> {
  const path = `../../examples/${name}/server.mjs`;
  const example = (await import(/* @vite-ignore */ path)) as Example;
  await example.build?.();
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
  expect(await page.evaluate("getComputedStyle(document.querySelector('nav')).borderTopWidth")).toBe("6px");
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
  await page.getByRole("button", { name: "Sign in" }).click();
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
});

test("an archive: the page reads the listing as JSON; people get it with the theme", async () => {
  const url = await open("archive");
  await page.goto(url);
  await page.getByRole("link", { name: "view from the hide.png" }).waitFor();
  expect(await page.locator("tbody tr").count()).toBe(2);
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
