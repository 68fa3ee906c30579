// Builds a release of the observatory's season report: a page, and a bundle whose name has its fingerprint.
import { createHash } from "node:crypto";
import { copyFile, mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const SPECIES = ["Sedge warbler", "Redshank", "Arctic tern", "Reed bunting", "Wheatear", "Sand martin"];

/** Writes the build to a folder. `edition` is what differs between two of them. */
export async function buildSeason(folder, edition) {
  const rows = SPECIES.map((name, index) => [name, 40 + ((edition * 37 + index * 53) % 160)]);
  const bundle = `export const edition = ${edition};\nexport const ringed = ${JSON.stringify(rows)};\n`;
  const name = `season-${createHash("sha256").update(bundle).digest("hex").slice(0, 8)}.js`;
  const files = {
    "index.html": page(edition, name),
    "edition.json": JSON.stringify({ edition, bundle: `/assets/${name}` }),
    [`assets/${name}`]: bundle,
    "watch.js": WATCH,
    ".epistyle/fingerprints.txt": `assets/${name}\n`,
  };
  for (const [path, text] of Object.entries(files)) {
    await mkdir(join(folder, path, ".."), { recursive: true });
    await writeFile(join(folder, path), text);
  }
  await copyFile(
    fileURLToPath(new URL("../shared/larkholm.css", import.meta.url)),
    join(folder, "larkholm.css"),
  );
  return name;
}

const page = (edition, bundle) => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Season report, edition ${edition}</title>
<link rel="icon" href="data:,">
<link rel="stylesheet" href="/larkholm.css">
<main>
<h1>Season report, edition ${edition}</h1>
<p>Birds ringed at Larkholm. This page is edition ${edition}; its numbers come from <code>/assets/${bundle}</code>.</p>
<h2>What the servers answer</h2>
<p>Asked once a second. This page goes on working with its own bundle, whichever edition is present.</p>
<table id="asked"><thead><tr><th>Time<th>Edition that is present<th>This page's bundle</thead><tbody></tbody></table>
<h2>The report</h2>
<table id="ringed"><thead><tr><th>Species<th>Ringed</thead><tbody></tbody></table>
</main>
<script type="module">
import { ringed } from "/assets/${bundle}";
for (const row of ringed) {
  const cells = document.querySelector("#ringed tbody").insertRow();
  for (const cell of row) cells.insertCell().textContent = cell;
}
</script>
<script type="module" src="/watch.js" data-bundle="/assets/${bundle}"></script>
`;

const WATCH = `const { bundle } = document.querySelector("script[data-bundle]").dataset;
const rows = document.querySelector("#asked tbody");
async function ask() {
  const [present, own] = await Promise.all([
    fetch("/edition.json", { cache: "no-store" }).then((response) => response.json()).catch(() => ({ edition: "no answer" })),
    fetch(bundle, { cache: "no-store" }).then(({ status }) => status).catch(() => "no answer"),
  ]);
  const row = rows.insertRow(0);
  for (const text of [new Date().toLocaleTimeString("en-GB"), present.edition, own === 200 ? "answers" : own])
    row.insertCell().textContent = text;
  while (rows.rows.length > 10) rows.deleteRow(-1);
}
await ask();
setInterval(ask, 1000);
`;
