import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { Page } from "playwright-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { type RunningServer, startServer } from "../../src/adapters/node.js";
import { memorySource, openSite } from "../../src/index.js";
import { openBrowser } from "./browser.js";

const AXE = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

let server: RunningServer;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
beforeAll(async () => {
  const tree = {
    ...Object.fromEntries(
      Array.from({ length: 25 }, (_, i) => [`transect-${i + 1}.csv`, "x".repeat((i * 7) % 25)]),
    ),
    "sub/deep/a.txt": "a",
    "sub/view.png": "x",
  };
  server = await startServer(
    await openSite({
      mounts: [{ at: "/archive", source: memorySource(tree), listing: { pageSize: 12, title: "Archive" } }],
    }),
    { port: 0 },
  );
  browser = await openBrowser();
  page = await browser.context.newPage();
});
afterAll(async () => {
  await browser.close();
  await server.close();
});

const open = (path: string): Promise<unknown> => page.goto(`${server.url}archive/${path}`);
const names = (): Promise<string[]> => page.locator("tbody tr:visible th bdi").allTextContents();

test("headings order the rows, say so, and can be bookmarked", async () => {
  await open("");
  expect((await names()).slice(0, 4)).toEqual(["sub", "transect-1.csv", "transect-2.csv", "transect-3.csv"]);
  expect(await page.locator("th[aria-sort]").allTextContents()).toEqual(["Name ↑"]);
  await page.getByRole("link", { name: "Size" }).click();
  expect(page.url()).toBe(`${server.url}archive/?order=size`);
  expect(await page.locator("th[aria-sort=ascending]").textContent()).toBe("Size ↑");
  await page.getByRole("link", { name: "Size" }).click();
  expect(await page.locator("th[aria-sort=descending]").textContent()).toBe("Size ↓");
  expect(await page.locator("tbody tr:nth-child(2) data").getAttribute("value")).toBe("24");
  await page.reload();
  expect(await page.locator("tbody tr:nth-child(2) data").getAttribute("title")).toBe("24 bytes");
});

test("pages turn, and keep the order", async () => {
  await open("?order=size");
  await page.getByRole("link", { name: "Next" }).click();
  expect(page.url()).toBe(`${server.url}archive/?order=size&page=2`);
  expect(await page.locator(".pages").textContent()).toContain("13–24 of 26");
  await page.getByRole("link", { name: "Page 3" }).click();
  expect(page.url()).toBe(`${server.url}archive/?order=size&page=3`);
  await page.getByRole("link", { name: "Page 1" }).click();
  expect(page.url()).toBe(`${server.url}archive/?order=size`);
});

test("the way up leads to the mount and not above it", async () => {
  await open("sub/deep/");
  await page.locator("a[rel=up]").click();
  expect(page.url()).toBe(`${server.url}archive/sub/`);
  await page.getByRole("link", { name: "Archive" }).click();
  expect(page.url()).toBe(`${server.url}archive/`);
  expect(await page.locator("a[rel=up]").count()).toBe(0);
});

test("the filter hides what does not have the text at once, and on Enter searches all pages", async () => {
  const asked: string[] = [];
  page.on("request", (request) => void asked.push(new URL(request.url()).pathname));
  await open("?order=size");
  await page.getByLabel("Filter by name").fill("-1");
  expect((await names()).every((name) => name.includes("-1"))).toBe(true);
  expect(await page.getByRole("status").textContent()).toMatch(
    /^\d of 12 on this page; press Enter to search all 26$/,
  );
  await page.getByLabel("Filter by name").press("Enter");
  await page.waitForURL(`${server.url}archive/?order=size&filter=-1`);
  expect((await names()).length).toBe(11);
  await page.getByLabel("Filter by name").fill("-19");
  expect(await names()).toEqual(["transect-19.csv"]);
  await page.getByRole("link", { name: "Show all 26" }).click();
  expect((await names()).length).toBe(12);
  // The page has its icon in it: nobody asks for one.
  expect(asked.filter((path) => path !== "/archive/")).toEqual([]);
});

test("without scripts the page is whole, and the filter searches all pages", async () => {
  const { chromium } = await import("playwright-core");
  const other = await chromium.launch({
    executablePath: "/usr/bin/chromium",
    args: ["--headless", "--no-sandbox", "--disable-gpu"],
  });
  const plain = await (await other.newContext({ javaScriptEnabled: false })).newPage();
  await plain.goto(`${server.url}archive/`);
  expect(await plain.locator("tbody a").count()).toBe(12);
  await plain.getByLabel("Filter by name").fill("VIEW");
  await plain.getByRole("button", { name: "Filter" }).click();
  expect(await plain.locator(".pages").textContent()).toContain(
    "nothing with “VIEW” in the name · Show all 26",
  );
  await plain.goto(`${server.url}archive/`);
  await plain.getByLabel("Filter by name").fill("transect-25");
  await plain.getByRole("button", { name: "Filter" }).click();
  expect(await plain.locator("tbody tr a").allTextContents()).toEqual(["transect-25.csv"]);
  await other.close();
});

test("the keyboard reaches every heading and row in order, and shows where it is", async () => {
  await open("");
  const reached: string[] = [];
  for (let i = 0; i < 8; i++) {
    await page.keyboard.press("Tab");
    reached.push(
      await page.evaluate(
        () => (document.activeElement as HTMLElement).textContent!.trim() || document.activeElement!.tagName,
      ),
    );
  }
  expect(reached).toEqual(["INPUT", "Filter", "Name ↑", "Kind", "Size", "Modified", "sub", "transect-1.csv"]);
  expect(await page.evaluate(() => getComputedStyle(document.activeElement!).outlineStyle)).toBe("solid");
  await page.keyboard.press("Shift+Tab");
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/sub\/$/);
});

test.each(["light", "dark"] as const)(
  "an accessibility checker finds nothing, in %s and on a narrow screen",
  async (colorScheme) => {
    await page.emulateMedia({ colorScheme });
    const found: unknown[] = [];
    for (const [path, width] of [
      ["", 1280],
      ["sub/", 1280],
      ["?filter=transect&page=2", 390],
      ["nope", 1280],
    ] as const) {
      await page.setViewportSize({ width, height: 800 });
      await open(path);
      // The policy lets no script of anyone else's run, so the checker comes in from outside the page.
      const { violations } = (await page.evaluate(`(() => { ${AXE}; return axe.run(); })()`)) as {
        violations: { id: string; impact: string; nodes: { html: string }[] }[];
      };
      found.push(...violations.map(({ id, impact, nodes }) => ({ path, id, impact, html: nodes[0]!.html })));
      expect(
        await page.evaluate(
          () => document.documentElement.scrollWidth <= document.documentElement.clientWidth,
        ),
      ).toBe(true);
    }
    expect(found).toEqual([]);
    await page.setViewportSize({ width: 1280, height: 800 });
  },
);
