// How long checks take: 1,000 cases in process and over loopback, and all packs over a site of 2,000 addresses. node bench/checks.mjs
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { startServer } from "../dist/adapters/node.js";
import { openSite } from "../dist/index.js";
import {
  askServer,
  askSite,
  expandCases,
  loadExpectations,
  PACK_NAMES,
  runCases,
  runPacks,
} from "../dist/testing/index.js";

const folder = mkdtempSync(join(tmpdir(), "epistyle-bench-checks-"));
const page = (title, links) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${title}</title><link rel="stylesheet" href="/site.css"></head><body>${links.map((href) => `<a href="${href}">${href}</a>`).join(" ")}<p>${"The heron waits. ".repeat(100)}</p></body></html>`;
try {
  mkdirSync(join(folder, "site/birds"), { recursive: true });
  const birds = Array.from({ length: 1990 }, (_, i) => `/birds/bird-${i}.html`);
  const indexes = Array.from({ length: 8 }, (_, i) => `/birds/list-${i}.html`);
  writeFileSync(join(folder, "site/index.html"), page("Larkholm", indexes));
  writeFileSync(join(folder, "site/404.html"), page("Not here", ["/"]));
  writeFileSync(join(folder, "site/site.css"), `body { color: #123 } ${"/* heron */ ".repeat(100)}`);
  for (const [i, index] of indexes.entries())
    writeFileSync(
      join(folder, "site", index),
      page(
        `List ${i}`,
        birds.filter((_, j) => j % 8 === i),
      ),
    );
  for (const bird of birds) writeFileSync(join(folder, "site", bird), page(bird, ["/"]));
  // As many cases about a few files as a site has kinds of things, and about as many files.
  for (const files of [20, 1000])
    writeFileSync(
      join(folder, `${files}.yaml`),
      `version: 1\ncases:\n${Array.from({ length: 1000 }, (_, i) => `  - { request: GET ${birds[i % files]}, expect: { status: 200, mediaType: text/html, body: { contains: heron } } }`).join("\n")}\n`,
    );
  const site = await openSite({ base: folder, mounts: [{ folder: "site" }] });
  const server = await startServer(site, { port: 0 });
  const time = async (what, work) => {
    const started = performance.now();
    const results = await work();
    const failed = results.filter(({ outcome }) => outcome === "failed" || outcome === "unanswered");
    console.log(
      `${what}: ${((performance.now() - started) / 1000).toFixed(3)} s, ${results.length} cases, ${failed.length} failed`,
    );
    for (const { case: one } of failed.slice(0, 3)) console.log(`  ${one.group}: ${one.name}`);
  };
  for (const files of [20, 1000]) {
    const cases = await expandCases(await loadExpectations(join(folder, `${files}.yaml`)), undefined);
    for (const turn of ["first", "second"]) {
      await time(`1,000 cases about ${files} files, in process, ${turn} time`, () =>
        runCases(cases, askSite(site)),
      );
      const asker = askServer(server.url);
      await time(`1,000 cases about ${files} files, over loopback, ${turn} time`, () =>
        runCases(cases, asker),
      );
      await asker.close();
    }
  }
  await time("2,000 addresses by all packs, in process", () => runPacks(site, PACK_NAMES));
  await time("2,000 addresses by all packs, over loopback", () => runPacks(server.url, PACK_NAMES));
  await server.close?.();
} finally {
  rmSync(folder, { recursive: true });
}
process.exit(0);
