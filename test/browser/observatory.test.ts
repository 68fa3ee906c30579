import { execFileSync } from "node:child_process";
import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import type { Page } from "playwright-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { openBrowser } from "./browser.js";

let server: Server;
let url: string;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
const violations: string[] = [];

beforeAll(async () => {
  execFileSync(process.execPath, ["examples/observatory/build.mjs"]);
  const example = "../../examples/observatory/server.mjs";
  server = (await import(/* @vite-ignore */ example)).makeServer();
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  browser = await openBrowser();
  page = await browser.context.newPage();
  page.on(
    "console",
    (message) => /Content.Security.Policy/i.test(message.text()) && violations.push(message.text()),
  );
});
afterAll(async () => {
  await browser.close();
  server.closeAllConnections();
  server.close();
});

const heading = (): Promise<string | null> => page.locator("h1").textContent();

test("a deep link under a prefix comes up, and so does its reload", async () => {
  const response = await page.goto(`${url}/explorer/sightings/42`, { waitUntil: "networkidle" });
  expect([response!.status(), response!.headers()["content-type"]]).toEqual([
    200,
    "text/html; charset=utf-8",
  ]);
  expect(response!.headers()["cache-control"]).toBe("no-cache");
  expect(await heading()).toBe("Sighting 42");
  expect((await page.reload({ waitUntil: "networkidle" }))!.ok()).toBe(true);
  expect(await heading()).toBe("Sighting 42");
  expect(await page.evaluate(() => document.fonts.check('20px "Young Serif"'))).toBe(true);
});

test("links, back and forward go from page to page without a reload", async () => {
  await page.goto(`${url}/explorer/`, { waitUntil: "networkidle" });
  expect(await heading()).toBe("Every sighting of 2026");
  await page.evaluate(() => Object.assign(window, { mark: "the same document" }));
  await page.locator("tbody a").first().click();
  await page.waitForFunction(() => document.querySelector("h1")!.textContent!.startsWith("Sighting "));
  await page.goBack();
  await page.waitForFunction(() => document.querySelector("h1")!.textContent === "Every sighting of 2026");
  await page.goForward();
  await page.waitForFunction(() => document.querySelector("h1")!.textContent!.startsWith("Sighting "));
  expect(await page.evaluate(() => (window as unknown as { mark: string }).mark)).toBe("the same document");
});

test("the explorer has its own page for what it does not have", async () => {
  expect((await page.goto(`${url}/explorer/nowhere`, { waitUntil: "networkidle" }))!.status()).toBe(200);
  expect(await heading()).toBe("Not in the records");
});

test("the field guide beside it has its own error page, with status 404", async () => {
  expect((await page.goto(`${url}/guide/dodo`))!.status()).toBe(404);
  expect(await heading()).toBe("Not seen here");
  expect((await page.goto(`${url}/guide/waders/curlew`))!.status()).toBe(200);
  expect(await heading()).toBe("Curlew");
});

test("a missing script stays missing, whoever asks for it", async () => {
  await page.goto(`${url}/explorer/`);
  const [status, type] = await page.evaluate(async () => {
    const response = await fetch("/explorer/assets/old-00000000.js");
    return [response.status, response.headers.get("content-type")];
  });
  expect([status, type]).toEqual([404, "text/plain; charset=utf-8"]);
  expect((await page.goto(`${url}/explorer/assets/old-00000000.js`))!.status()).toBe(404);
});

test.each([
  ["a record", "/api/sightings/1", 200],
  ["a record that is not there", "/api/sightings/9999", 404],
  ["a resource that is not there", "/api/nothing", 404],
])("the API answers for itself, in JSON: %s", async (_sentence, path, status) => {
  const response = await page.request.get(url + path, { headers: { accept: "text/html" } });
  expect([response.status(), response.headers()["content-type"]]).toEqual([status, "application/json"]);
});

test("a route of the application answers with one file of the site", async () => {
  const [route, address] = [
    await page.request.get(`${url}/latest-report`),
    await page.request.get(`${url}/reports/Season%20report%202026.pdf`),
  ];
  expect(route.headers()["content-type"]).toBe("application/pdf");
  expect(route.headers().etag).toBe(address.headers().etag);
  expect((await route.body()).equals(await address.body())).toBe(true);
});

test("nothing of all this was against the policies of the pages", async () => {
  expect((await page.goto(`${url}/explorer/`))!.headers()["content-security-policy"]).toMatch(
    /^default-src 'self'; /,
  );
  await page.goto(`${url}/explorer/species/Curlew`, { waitUntil: "networkidle" });
  // The bars have heights of their own: a script sets them.
  const heights = await page
    .locator(".bars i")
    .evaluateAll((bars) => bars.map((bar) => bar.getBoundingClientRect().height));
  expect([heights.length, Math.max(...heights) > 50, violations]).toEqual([18, true, []]);
});
