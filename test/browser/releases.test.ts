import { renameSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { startServer } from "../../src/adapters/node.js";
import { openSite } from "../../src/index.js";
import { makeTemporaryTree } from "../../src/testing/index.js";
import { openBrowser } from "./browser.js";

test("a page that is open while the release is exchanged still gets the bundle that it loads later", async () => {
  const release = (name: string, place: string) => ({
    [`releases/${place}/index.html`]: `<!doctype html><meta charset="utf-8"><title>${place}</title><script type="module" src="/assets/app-${name}.js"></script><button>More</button><p></p>`,
    [`releases/${place}/assets/app-${name}.js`]: `document.querySelector("button").onclick = () => import("./lazy-${name}.js");`,
    [`releases/${place}/assets/lazy-${name}.js`]: `document.querySelector("p").textContent = "the lazy bundle of ${place}";`,
  });
  await using tree = await makeTemporaryTree({
    ...release("5f3a91bc", "autumn"),
    current: { link: "releases/autumn" },
  });
  const open = (earlier: boolean) =>
    openSite({
      base: tree.folder,
      mounts: [
        {
          folder: "current",
          kind: "app",
          ...(earlier && { earlierReleases: { folders: "releases/*", keep: 3 } }),
        },
      ],
    });
  const browser = await openBrowser();
  try {
    const outcomes: string[] = [];
    for (const [turn, earlier] of [false, true].entries()) {
      const server = await startServer(await open(earlier), { port: 0 });
      const page = await browser.context.newPage();
      await page.goto(server.url);
      await tree.write(release(`77aa91b${turn}`, `winter-${turn}`));
      symlinkSync(`releases/winter-${turn}`, join(tree.folder, "next"));
      renameSync(join(tree.folder, "next"), join(tree.folder, "current"));
      const answered = page.waitForResponse(/lazy-/);
      await page.click("button");
      outcomes.push(`${(await answered).status()}`);
      if (earlier)
        await expect.poll(() => page.locator("p").textContent()).toBe("the lazy bundle of winter-0");
      await page.reload();
      expect(await page.title()).toBe(`winter-${turn}`);
      await page.close();
      await server.close();
    }
    expect(outcomes).toEqual(["404", "200"]);
  } finally {
    await browser.close();
  }
});
