import { spawn } from "node:child_process";
import { once } from "node:events";
import { renameSync, symlinkSync } from "node:fs";
import { join, resolve } from "node:path";
import { build } from "vite";
import { expect, test } from "vitest";
import { makeTemporaryTree } from "../../src/testing/index.js";
import { openBrowser } from "./browser.js";

// An application with many lazy parts, built by Vite in two releases, served by two workers.
const PARTS = 60;
const sources = (release: string): Record<string, string> => ({
  "index.html":
    '<!doctype html><html lang="en"><title>Larkholm</title><script type="module" src="/main.js"></script></html>',
  "main.js": `const parts = [${Array.from({ length: PARTS }, (_, i) => `() => import("./parts/bird${i}.js")`).join(", ")}];\nwindow.load = async () => (await Promise.all(parts.map((part) => part()))).map(({ told }) => told);`,
  ...Object.fromEntries(
    Array.from({ length: PARTS }, (_, i) => [`parts/bird${i}.js`, `export const told = "${release} ${i}";`]),
  ),
});

test("a page of the old release loads every lazy part after the switch, from two workers", async () => {
  await using tree = await makeTemporaryTree({
    "epistyle.config.yaml":
      "mounts: [{ folder: current, kind: app, earlierReleases: { folders: releases/* } }]",
  });
  const makeRelease = async (name: string): Promise<void> => {
    await tree.write(sources(name));
    const outDir = `releases/${name}`;
    await build({
      root: tree.folder,
      configFile: false,
      logLevel: "silent",
      build: { outDir, emptyOutDir: true },
    });
    symlinkSync(outDir, join(tree.folder, "next"));
    renameSync(join(tree.folder, "next"), join(tree.folder, "current"));
  };
  await makeRelease("autumn");
  const args = ["serve", "--config", "epistyle.config.yaml", "--port", "0", "--workers", "2", "--log", "off"];
  const server = spawn(process.execPath, [resolve("dist/cli/bin.js"), ...args], { cwd: tree.folder });
  const browser = await openBrowser();
  try {
    let said = "";
    server.stdout.on("data", (chunk) => (said += String(chunk)));
    await expect.poll(() => said).toMatch(/http:\/\/\S+/);
    const [url] = /http:\/\/[^\s/]+/.exec(said)!;
    const page = await browser.context.newPage();
    const failed: string[] = [];
    page.on("response", (response) => response.status() >= 400 && failed.push(response.url()));
    await page.goto(url!);
    await makeRelease("winter");
    const told = (await page.evaluate("load()")) as string[];
    expect([failed.filter((one) => !one.endsWith("/favicon.ico")), told]).toEqual([
      [],
      Array.from({ length: PARTS }, (_, i) => `autumn ${i}`),
    ]);
    await page.reload();
    expect(((await page.evaluate("load()")) as string[])[0]).toBe("winter 0");
  } finally {
    await browser.close();
    server.kill();
    await once(server, "exit");
  }
});
