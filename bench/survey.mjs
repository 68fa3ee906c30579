// A survey of 100,000 files: how long it takes, and how much memory. Usage: node bench/survey.mjs
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const PAGES = 40_000;
const OTHERS = 60_000;

if (process.argv[2] === undefined) {
  const folder = mkdtempSync(join(tmpdir(), "epistyle-survey-"));
  try {
    writeFileSync(join(folder, "index.html"), "<!doctype html><title>All</title>");
    writeFileSync(join(folder, "style.css"), "a{}");
    for (let i = 0; i < 100; i++) mkdirSync(join(folder, `guide/${i}`), { recursive: true });
    for (let i = 0; i < PAGES; i++) {
      const at = `guide/${i % 100}/${i < 100 ? "index" : i}.html`;
      const links = [1, 7, 99, 1234].map((step) => (i + step) % PAGES);
      const all = links
        .map((n) => `<a href="/guide/${n % 100}/${n < 100 ? "" : `${n}.html`}">${n}</a>`)
        .join("");
      writeFileSync(
        join(folder, at),
        `<!doctype html><meta charset="utf-8"><link rel="stylesheet" href="/style.css">${all}${"text ".repeat(300)}`,
      );
    }
    for (let i = 0; i < OTHERS; i++)
      writeFileSync(join(folder, `guide/${i % 100}/record-${i}.csv`), `heron,${i}\n`.repeat(20));
    console.log(execFileSync(process.execPath, [process.argv[1], folder], { encoding: "utf8" }));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
} else {
  const { surveySite } = await import("epistyle/survey");
  const { files, findings, milliseconds } = await surveySite({ mounts: [{ folder: process.argv[2] }] });
  const peak = process.resourceUsage().maxRSS / 1000;
  console.log(
    JSON.stringify({ files, findings: findings.length, seconds: milliseconds / 1000, peakMB: peak }),
  );
}
