import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join, resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import type { Page } from "playwright-core";
import { afterAll, beforeAll, expect, test } from "vitest";
import { makeTree, type Tree } from "../helpers.js";
import { openBrowser } from "./browser.js";

const AXE = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");
const CONFIG =
  "mounts:\n  - folder: public\n    withheld: ['*.bak']\n    caching: [{ files: '*.css', policy: { maxAge: 1h } }]\nmoved: { /old/: /guide/ }\n";

let tree: Tree;
let child: ChildProcessWithoutNullStreams;
let browser: Awaited<ReturnType<typeof openBrowser>>;
let page: Page;
let lab = "";
const said: string[] = [];

beforeAll(async () => {
  tree = await makeTree({
    "public/index.html": "<title>Larkholm</title><script>document.title = 'run'</script>",
    "public/style.css": "body{}",
    "public/old.bak": "old",
    "public/guide/rook.html": "rook",
    "epistyle.config.yaml": CONFIG,
    "expectations.yaml":
      "version: 1\ncases:\n  - name: the style sheet\n    request: GET /style.css\n    expect: { status: 200, mediaType: text/plain }\n",
  });
  child = spawn(process.execPath, [resolve("dist/cli/bin.js"), "lab", "--edit"], {
    cwd: tree.root,
    env: { ...process.env, NO_COLOR: "1" },
  });
  let out = "";
  child.stdout.on("data", (chunk) => (out += chunk));
  for (let i = 0; i < 200 && !/The lab +\S+/.test(out); i++) await wait(50);
  lab = /The lab +(\S+)/.exec(out)![1]!;
  browser = await openBrowser();
  page = await browser.context.newPage();
  // It asks before what was typed is left.
  page.on("dialog", (dialog) => dialog.accept());
  page.on("pageerror", ({ message }) => said.push(message));
  page.on("console", (message) => message.type() === "error" && said.push(message.text()));
});
afterAll(async () => {
  await browser.close();
  child.kill();
  await tree.remove();
});

const stage = (name: string) =>
  page.locator(".beam-part:first-of-type .beam li", { has: page.locator(".name", { hasText: name }) });
const write = async (text: string): Promise<void> => {
  await page.getByRole("textbox", { name: "Configuration" }).click();
  await page.keyboard.press("Control+a");
  await page.keyboard.insertText(text);
};

test("a file of the tree is asked for, and its way is shown; the state can be linked to", async () => {
  await page.goto(lab);
  await page.getByRole("button", { name: "style.css", exact: true }).click();
  await page.locator(".status", { hasText: "200 OK" }).waitFor();
  expect(page.url()).toBe(`${lab}#target=/style.css`);
  await page.getByRole("button", { name: /^rules/ }).click();
  expect(await page.locator(".stage").textContent()).toContain("withheld");
  expect(await page.locator(".row", { hasText: "old.bak" }).textContent()).toContain("withheld");
  await page.goto("about:blank");
  await page.goto(`${lab}#target=/old/rook&as=reload&stage=file`);
  await page.locator(".status", { hasText: "301" }).waitFor();
  expect(await stage("file").textContent()).toContain("decided here");
  expect(await page.locator(".stage").textContent()).toContain('moved["/old/"]');
  await page.getByRole("button", { name: "Follow to" }).click();
  await page.locator(".status", { hasText: /304|200/ }).waitFor();
  await page.goBack();
  await page.locator(".status", { hasText: "301" }).waitFor();
});

test("a body is shown, and not run", async () => {
  await page.goto(`${lab}#target=/`);
  await page.locator("pre", { hasText: "document.title" }).waitFor();
  expect(await page.title()).toBe("Epistyle lab");
});

test("a change is told before it is saved, mistakes at their line; keys are completed; saved, it is in force", async () => {
  await page.goto(`${lab}#target=/style.css`);
  await page.locator(".changes h2", { hasText: "Nothing changes" }).waitFor();
  await write(CONFIG.replace("withheld", "witheld"));
  await page.locator(".problems", { hasText: 'found the key "witheld"; write "withheld"' }).waitFor();
  expect(
    await page
      .locator("#panel-configuration .cm-line", { has: page.locator(".cm-lintRange-error") })
      .allTextContents(),
  ).toEqual(["    witheld: ['*.bak']"]);
  await write(CONFIG.replace("1h", "2h"));
  await page.locator(".changes h2", { hasText: "1 address changes: 1 gets another lifetime." }).waitFor();
  expect(await page.locator(".from-to").textContent()).toBe("max-age=3600 → max-age=7200");
  // Beside the present answer stands the one that it would be.
  const draft = page.locator(".draft");
  await draft.locator("h2", { hasText: "With your unsaved changes: 200 OK" }).waitFor();
  expect(await draft.locator("h2").textContent()).toContain("with other Cache-Control");
  expect(await page.locator(".fields").textContent()).toContain("max-age=3600");
  await page.getByLabel("the answer with your changes").check();
  await page.locator(".fields", { hasText: "max-age=7200" }).waitFor();
  await page.getByLabel("the present answer").check();
  await page.getByRole("button", { name: "index.html", exact: true }).click();
  await page.locator(".draft", { hasText: "Your unsaved changes do not change this answer." }).waitFor();
  await page.getByRole("button", { name: "style.css", exact: true }).click();
  await draft.locator("h2").waitFor();
  await page.getByRole("textbox", { name: "Configuration" }).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type("not", { delay: 20 });
  await page.locator(".cm-tooltip-autocomplete", { hasText: "notListed" }).waitFor();
  await page.keyboard.press("Escape");
  for (let i = 0; i < 3; i++) await page.keyboard.press("Backspace");
  await page.locator(".changes h2", { hasText: "1 address changes" }).waitFor();
  await page.locator("#panel-configuration").getByRole("button", { name: "Save" }).click();
  await page.locator("#panel-configuration [role=status]", { hasText: "Saved." }).waitFor();
  await draft.waitFor({ state: "detached" });
  expect(readFileSync(join(tree.root, "epistyle.config.yaml"), "utf8")).toBe(CONFIG.replace("1h", "2h"));
  await page.locator(".fields", { hasText: "max-age=7200" }).waitFor();
  // A change from elsewhere is shown, and asks again what is asked now.
  writeFileSync(join(tree.root, "epistyle.config.yaml"), CONFIG.replace("1h", "3h"));
  await page.locator("#panel-configuration .cm-line", { hasText: "3h" }).waitFor();
  await page.locator(".fields", { hasText: "max-age=10800" }).waitFor();
  await page.waitForTimeout(700);
  expect(await page.locator(".fields").textContent()).toContain("max-age=10800");
  writeFileSync(join(tree.root, "epistyle.config.yaml"), CONFIG.replace("1h", "2h"));
  await page.locator(".fields", { hasText: "max-age=7200" }).waitFor();
});

test("what is typed stays when the file changes, and whoever typed it decides; the site's page has no hand on the lab's window", async () => {
  const file = join(tree.root, "epistyle.config.yaml");
  const now = readFileSync(file, "utf8");
  await page.goto("about:blank");
  await page.goto(`${lab}#target=/style.css`);
  await page.locator(".changes h2", { hasText: "Nothing changes" }).waitFor();
  const mine = `${now}# mine\n`;
  await write(mine);
  writeFileSync(file, `${now}# theirs\n`);
  const notice = page.locator("#panel-configuration [role=alert]", {
    hasText: "What you typed is still here.",
  });
  await notice.waitFor();
  expect(await page.locator("#panel-configuration .cm-content").textContent()).toContain("# mine");
  await notice.getByRole("button", { name: "Keep my text" }).click();
  await page.locator("#panel-configuration").getByRole("button", { name: "Save" }).click();
  await page.locator("#panel-configuration [role=status]", { hasText: "Saved." }).waitFor();
  expect(readFileSync(file, "utf8")).toBe(mine);
  await write(`${now}# again\n`);
  writeFileSync(file, now);
  await notice.getByRole("button", { name: "Use the file’s text" }).click();
  await page.locator("#panel-configuration .cm-content", { hasNotText: "# again" }).waitFor();
  const [popup] = await Promise.all([
    page.context().waitForEvent("page"),
    page.getByRole("link", { name: "Open this address of the site" }).click(),
  ]);
  expect(await popup.evaluate(() => window.opener)).toBeNull();
  await popup.close();
});

test("what is typed outlives a reload; Ctrl+S saves it, and it can be undone after that", async () => {
  const file = join(tree.root, "epistyle.config.yaml");
  const now = readFileSync(file, "utf8");
  const content = page.locator("#panel-configuration .cm-content");
  await page.goto("about:blank");
  await page.goto(`${lab}#target=/style.css`);
  await page.locator(".changes h2", { hasText: "Nothing changes" }).waitFor();
  await write(`${now}# typed\n`);
  await page.locator(".changes h2", { hasText: "Nothing changes" }).waitFor();
  await page.reload();
  await content.filter({ hasText: "# typed" }).waitFor();
  await page.getByRole("textbox", { name: "Configuration" }).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.insertText("# more\n");
  await page.keyboard.press("Control+s");
  await page.locator("#panel-configuration [role=status]", { hasText: "Saved." }).waitFor();
  expect(readFileSync(file, "utf8")).toBe(`${now}# typed\n# more\n`);
  await page.keyboard.press("Control+z");
  await content.filter({ hasNotText: "# more" }).waitFor();
  await page.keyboard.press("Control+s");
  await expect.poll(() => readFileSync(file, "utf8")).toBe(`${now}# typed\n`);
  await write(now);
  await page.keyboard.press("Control+s");
  await expect.poll(() => readFileSync(file, "utf8")).toBe(now);
});

test("the page follows the files", async () => {
  await page.goto(`${lab}#target=/style.css`);
  await page.locator(".fields", { hasText: "Content-Length6" }).waitFor();
  writeFileSync(join(tree.root, "public/style.css"), "body{color:teal}");
  await page.locator(".fields", { hasText: "Content-Length16" }).waitFor();
  writeFileSync(join(tree.root, "public/fresh.txt"), "new");
  await page.getByRole("button", { name: "fresh.txt", exact: true }).waitFor();
});

test("by keyboard: skip to the parts, move in what a search found, widen a column", async () => {
  await page.goto("about:blank");
  await page.goto(`${lab}#target=/style.css`);
  await page.locator(".status", { hasText: "200 OK" }).waitFor();
  const focused = () =>
    page.evaluate(() => document.activeElement?.id || document.activeElement?.textContent || "");
  await page.keyboard.press("Tab");
  await page.keyboard.press("Tab");
  expect(await focused()).toBe("files");
  await page.keyboard.press("Enter");
  expect(await focused()).toBe("search");
  await page.keyboard.type("rook");
  await page.getByRole("button", { name: "/guide/rook.html" }).waitFor();
  await page.keyboard.press("ArrowDown");
  expect(await focused()).toBe("/guide/rook.html");
  await page.keyboard.press("ArrowUp");
  expect(await focused()).toBe("search");
  await page.getByRole("searchbox", { name: "Search" }).fill("");
  const width = async () => (await page.locator(".side").boundingBox())!.width;
  const before = await width();
  await page.getByRole("separator", { name: "Width of the editor" }).focus();
  await page.keyboard.press("ArrowLeft");
  expect(Math.round((await width()) - before)).toBe(24);
  await page.reload();
  await page.locator(".status", { hasText: "200 OK" }).waitFor();
  expect(Math.round((await width()) - before)).toBe(24);
  await page.evaluate(() => localStorage.clear());
});

test("what is not as expected is shown on the beam; an answer becomes a case", async () => {
  await page.goto(`${lab}#target=/style.css&side=expectations`);
  await page.locator(".side h2", { hasText: "1 of 1 case failed." }).waitFor();
  await page.getByRole("button", { name: "the style sheet" }).click();
  await page.locator(".unmet", { hasText: "expected text/plain" }).waitFor();
  expect(await stage("representation").textContent()).toContain("not as expected");
  await page.getByRole("button", { name: "Expect this answer" }).click();
  await page.locator(".side h2", { hasText: "1 of 2 cases failed." }).waitFor();
});

test("a request that the site answers comes up, and is asked again", async () => {
  await page.goto(`${lab}#side=requests`);
  const site = await page.locator("#panel-requests a").getAttribute("href");
  await fetch(`${site}guide/rook?from=elsewhere`);
  await page.getByRole("button", { name: "/guide/rook?from=elsewhere" }).click();
  await page.locator(".because", { hasText: "implied extension" }).waitFor();
  await fetch(`${site}nothing/here`);
  await page.getByRole("button", { name: "/nothing/here" }).waitFor();
  await page.locator("#panel-requests select").selectOption("4xx");
  await page.locator(".watched li", { hasText: "/guide/rook" }).waitFor({ state: "detached" });
  await page.locator("#panel-requests [type=search]").fill("no such words");
  await page.locator("#panel-requests [role=status]", { hasText: /^0 of \d+$/ }).waitFor();
});

test.each([
  ["light", 1280],
  ["dark", 1280],
  ["dark", 390],
] as const)(
  "everybody can use it: %s, %i wide, by keyboard and screen reader",
  async (colorScheme, width) => {
    await page.emulateMedia({ colorScheme });
    await page.setViewportSize({ width, height: 800 });
    for (const hash of [
      "target=/old/rook&stage=file",
      "target=/style.css&stage=rules&side=expectations",
      "target=/nope.js&side=requests",
    ]) {
      await page.goto("about:blank");
      await page.goto(`${lab}#${hash}`);
      await page.locator(".status").waitFor({ state: "attached" });
      for (const pane of width < 500 ? ["files", "answer", "change"] : [""]) {
        if (pane !== "") await page.locator(".panes").getByRole("button", { name: pane }).click();
        await page.evaluate(AXE);
        const found = await page.evaluate(
          "axe.run().then(({ violations }) => violations.map(({ id, nodes }) => id + ': ' + nodes.map(({ html }) => html.slice(0, 120)).join(' | ')))",
        );
        expect(found, `${hash} ${pane}`).toEqual([]);
        expect(
          await page.evaluate("document.documentElement.scrollWidth <= innerWidth"),
          "nothing stands over",
        ).toBe(true);
      }
    }
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.getByLabel("Address").focus();
    await page.keyboard.press("Control+a");
    await page.keyboard.type("/guide/rook");
    await page.keyboard.press("Enter");
    await page.locator(".status", { hasText: "200 OK" }).waitFor();
    expect(said).toEqual([]);
  },
);

test("a lab that ended is said at once", async () => {
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`${lab}#target=/style.css`);
  await page.locator(".status", { hasText: "200 OK" }).waitFor();
  child.kill();
  await page.locator(".gone", { hasText: "The lab does not answer." }).waitFor();
});
