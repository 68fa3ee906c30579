import { afterAll, beforeAll, expect, test } from "vitest";
import { loadConfigFile, type RunningServer, startServer } from "../../src/adapters/node.js";
import { openSite } from "../../src/index.js";
import { openBrowser } from "./browser.js";

let server: RunningServer;
let browser: Awaited<ReturnType<typeof openBrowser>>;

beforeAll(async () => {
  server = await startServer(await openSite(await loadConfigFile("demo/epistyle.config.yaml")), { port: 0 });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await server.close();
});

test("the front page comes up whole: style sheet, font, module, pictures, sound", async () => {
  const page = await browser.context.newPage();
  const troubles: string[] = [];
  const types = new Map<string, string>();
  page.on("requestfailed", (request) => troubles.push(`failed: ${request.url()}`));
  page.on("pageerror", (error) => troubles.push(`error: ${error.message}`));
  page.on("console", (message) => message.type() === "error" && troubles.push(`console: ${message.text()}`));
  page.on("response", (response) => {
    types.set(new URL(response.url()).pathname, response.headers()["content-type"]!);
    if (response.status() >= 400) troubles.push(`${response.status()}: ${response.url()}`);
  });
  await page.goto(server.url, { waitUntil: "networkidle" });

  // The module ran, and read the records.
  expect(await page.locator("#season .bar").count()).toBe(12);
  expect(await page.evaluate(() => document.fonts.check('20px "Young Serif"'))).toBe(true);
  expect(await page.locator("h1").evaluate((h1) => getComputedStyle(h1).fontFamily)).toContain("Young Serif");
  expect(await page.locator(".hero").evaluate((hero) => getComputedStyle(hero).borderBottomWidth)).toBe(
    "8px",
  );
  const pictures = page.locator(".card img");
  expect(await pictures.count()).toBe(8);
  for (const picture of await pictures.all()) {
    expect(
      await picture.evaluate((img: HTMLImageElement) => img.complete && img.naturalWidth),
    ).toBeGreaterThan(0);
  }
  await page.waitForFunction(() => document.querySelector("audio")!.readyState >= 1);
  expect(await page.locator("audio").evaluate((audio: HTMLAudioElement) => audio.duration)).toBeCloseTo(
    1.35,
    1,
  );
  expect(types.get("/scripts/season.js")).toBe("text/javascript; charset=utf-8");
  expect(types.get("/fonts/young-serif.woff2")).toBe("font/woff2");
  expect(troubles).toEqual([]);
  await page.close();
});

test("pages run under their policy without a violation, and what is smuggled in does not run", async () => {
  const page = await browser.context.newPage();
  const violations: string[] = [];
  await page.exposeFunction("told", (text: string) => violations.push(text));
  await page.addInitScript(() => {
    document.addEventListener("securitypolicyviolation", ({ effectiveDirective, blockedURI }) => {
      (window as unknown as { told(text: string): void }).told(`${effectiveDirective} ${blockedURI}`);
    });
  });
  for (const path of [
    "",
    "guide/",
    "guide/waders/curlew",
    "visit",
    "archive/2026/",
    "archive/2026/transects/",
    "none",
  ]) {
    const answer = await page.goto(server.url + path, { waitUntil: "networkidle" });
    expect([path, answer!.headers()["content-security-policy"]]).toEqual([
      path,
      expect.stringContaining("default-src"),
    ]);
  }
  expect(violations).toEqual([]);
  await page.goto(server.url, { waitUntil: "networkidle" });
  const smuggle = (): boolean => {
    const script = document.createElement("script");
    script.textContent = "window.smuggled = true";
    document.body.append(script);
    document.body.insertAdjacentHTML("beforeend", '<img src="/none.png" onerror="window.smuggled = true">');
    return "smuggled" in window;
  };
  expect(await page.evaluate(smuggle)).toBe(false);
  await expect.poll(() => violations.sort()).toEqual(["script-src-attr inline", "script-src-elem inline"]);
  expect(await page.evaluate(() => "smuggled" in window)).toBe(false);
  await page.close();
});

test("the picture of the guide comes in a smaller format, and is shown", async () => {
  const page = await browser.context.newPage();
  const answered = page.waitForResponse(/view-from-the-hide\.png$/);
  await page.goto(`${server.url}guide/`, { waitUntil: "networkidle" });
  expect((await answered).headers()).toMatchObject({
    "content-type": "image/avif",
    vary: "Accept",
    "content-location": "./view-from-the-hide.avif",
  });
  expect(
    await page.locator(".view img").evaluate((img: HTMLImageElement) => img.complete && img.naturalWidth),
  ).toBe(1120);
  await page.close();
});

test("every link of the guide leads to a page, names beyond ASCII and with blanks among them", async () => {
  const page = await browser.context.newPage();
  const seen = new Set<string>();
  const queue = [server.url];
  while (queue.length > 0) {
    const url = queue.pop()!;
    if (seen.has(url)) continue;
    seen.add(url);
    if (/\.(pdf|csv|json|geojson)$/.test(url)) {
      expect((await page.request.get(url)).status()).toBe(200);
      continue;
    }
    expect((await page.goto(url))!.status(), url).toBe(200);
    const links = await page.locator("a").evaluateAll((all) => all.map((a) => (a as HTMLAnchorElement).href));
    queue.push(...links);
  }
  expect(
    [...seen].map((url) => decodeURI(url)).filter((url) => /Óðinshani|Notes from/.test(url)),
  ).toHaveLength(2);
  expect(seen.size).toBeGreaterThan(18);
  await page.close();
});

test("a page that does not exist shows the site's own, with status 404; raster pictures load", async () => {
  const page = await browser.context.newPage();
  expect((await page.goto(`${server.url}guide/dodo`))!.status()).toBe(404);
  expect(await page.locator("h1").textContent()).toBe("Not seen here");
  await page.goto(`${server.url}guide/`);
  expect(await page.locator(".view img").evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(1120);
  await page.close();
});
