import { execFile } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { loadConfigFile, type RunningServer, startServer } from "../../src/adapters/node.js";
import { openSite, type Site } from "../../src/index.js";
import { observeRecording } from "../../src/testing/draft/from-har.js";
import { writeDraft } from "../../src/testing/draft/write.js";
import { askServer, askSite, expandCases, loadExpectations, runCases } from "../../src/testing/index.js";
import { makePackCases } from "../../src/testing/packs/packs.js";
import { reportHtml } from "../../src/testing/reports/html.js";
import { openBrowser } from "./browser.js";

const AXE = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");
const folder = mkdtempSync(join(tmpdir(), "epistyle-report-"));

let site: Site;
let server: RunningServer;
let browser: Awaited<ReturnType<typeof openBrowser>>;
beforeAll(async () => {
  site = await openSite(await loadConfigFile(resolve("demo/epistyle.config.yaml")));
  server = await startServer(site, { port: 0 });
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await server.close();
  rmSync(folder, { recursive: true });
});

test("the HTML report: what failed is open, the rest opens, in both colour schemes and on a narrow screen", async () => {
  writeFileSync(
    join(folder, "e.yaml"),
    "version: 1\ngroups:\n  - name: pages\n    cases:\n      - { name: kept, request: /guide/, expect: { headers: { Cache-Control: max-age=60 } } }\n      - { name: right, request: /, expect: { status: 200 }, alsoAsk: [revisit] }\n",
  );
  const asker = askSite(site);
  const cases = [
    ...(await expandCases(await loadExpectations(join(folder, "e.yaml")), undefined)),
    ...(await makePackCases(["exposure"], { asker, site })),
  ];
  const run = {
    title: "e.yaml",
    about: "in process",
    address: asker.address,
    inProcess: true,
    startedAt: Date.now(),
    milliseconds: 20,
    results: await runCases(cases, asker),
  };
  const file = join(folder, "report.html");
  writeFileSync(file, reportHtml([run]));
  const page = await browser.context.newPage();
  const asked: string[] = [];
  page.on("request", (request) => asked.push(request.url()));
  await page.goto(`file://${file}`);
  expect(asked).toEqual([`file://${file}`]);
  expect(await page.locator("h1").textContent()).toBe(`1 of ${cases.length} cases failed.`);
  expect(await page.locator("details.failed tr.differs mark:visible").allTextContents()).toEqual([
    "max-age=60",
    "no-cache",
  ]);
  expect(await page.getByText("The whole answer").first().isVisible()).toBe(true);
  const right = page.locator("details.passed", { hasText: "right" });
  expect(await right.locator(".inside").isVisible()).toBe(false);
  await right.locator("summary").click();
  expect(await right.locator(".what:visible").allTextContents()).toEqual([
    "Request",
    "asked again with its entity tag",
    "asked again with its date",
  ]);
  const group = page.locator("details.group", { hasText: "exposure" });
  expect(await group.locator("details.passed").first().isVisible()).toBe(false);
  await group.locator("> summary").click();
  await page.evaluate(AXE);
  for (const colorScheme of ["light", "dark"] as const) {
    await page.emulateMedia({ colorScheme });
    const violations = await page.evaluate(
      "axe.run().then(({ violations }) => violations.map(({ id, nodes }) => id + ' ' + nodes[0].html))",
    );
    expect(violations).toEqual([]);
  }
  await page.setViewportSize({ width: 390, height: 800 });
  expect(await page.evaluate("document.documentElement.scrollWidth")).toBeLessThanOrEqual(390);
  await page.close();
});

test("the pages of a survey and of comparisons: everybody can use them, and none is too wide for a telephone", async () => {
  // The server is in this process: nothing may wait for a command.
  const cli = (...args: string[]): Promise<void> =>
    new Promise((done) => {
      execFile(process.execPath, [resolve("dist/cli/bin.js"), ...args], { cwd: folder }, () => done());
    });
  const config = readFileSync("demo/epistyle.config.yaml", "utf8").replaceAll(
    /folder: (site|archive)/g,
    `folder: ${resolve("demo")}/$1`,
  );
  writeFileSync(join(folder, "old.yaml"), config);
  writeFileSync(
    join(folder, "new.yaml"),
    config.replace(
      "  - at: /archive",
      "    withheld: ['*.pdf']\n    caching: [{ files: '*.html', policy: { maxAge: 1h } }]\n  - at: /archive",
    ),
  );
  await cli("compare", "old.yaml", "new.yaml", "--report", "html=configurations.html");
  await cli("compare", server.url, "new.yaml", "--report", "html=server.html");
  await cli("survey", "--config", "old.yaml", "--report", "html=survey.html");
  const page = await browser.context.newPage();
  for (const name of ["configurations", "server", "survey"]) {
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`file://${join(folder, name)}.html`);
    await page.evaluate("for (const one of document.querySelectorAll('details')) one.open = true");
    await page.evaluate(AXE);
    for (const colorScheme of ["light", "dark"] as const) {
      await page.emulateMedia({ colorScheme });
      const violations = await page.evaluate(
        "axe.run().then(({ violations }) => violations.map(({ id, nodes }) => id + ' ' + nodes[0].html))",
      );
      expect([name, violations]).toEqual([name, []]);
    }
    await page.setViewportSize({ width: 390, height: 800 });
    expect([name, await page.evaluate("document.documentElement.scrollWidth")]).toEqual([name, 390]);
  }
  await page.close();
});

test("a recording that Chromium wrote becomes a draft, and the draft passes", async () => {
  const har = join(folder, "visit.har");
  const context = await browser.context.browser()!.newContext({ recordHar: { path: har, content: "embed" } });
  const page = await context.newPage();
  for (const path of ["", "guide/waders", "archive/2026/", "no-such-bird", "guide/waders/curlew.html"])
    await page.goto(server.url + path, { waitUntil: "networkidle" });
  await page.reload();
  await context.close();
  const { address, observed } = await observeRecording(har);
  writeFileSync(
    join(folder, "visit.yaml"),
    await writeDraft(observed, { about: address, against: address, command: "epistyle check visit.yaml" }),
  );
  const asker = askServer(address);
  const cases = await expandCases(await loadExpectations(join(folder, "visit.yaml")), undefined);
  const results = await runCases(cases, asker);
  await asker.close();
  expect(
    results
      .filter(({ outcome }) => outcome !== "passed")
      .map(({ case: one, exchanges }) => [one.name, exchanges]),
  ).toEqual([]);
  expect(cases.length).toBeGreaterThan(8);
});
