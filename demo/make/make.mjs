#!/usr/bin/env node
// Makes demo/site and demo/archive (or the same in the folder that is named), the same bytes each time. Run it with `npm run demo:data` after changing
// what lies beside it.
import { copyFile, mkdir, readFile, rm, writeFile } from "node:fs/promises";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { Resvg } from "@resvg/resvg-js";
import sharp from "sharp";
import { birdPage, frontPage, groupPage, guidePage, missingPage, notesPage, visitPage } from "./pages.mjs";
import { drawLandscape, drawPlate, favicon } from "./plates.mjs";
import { formatCsv, makePlaces, makeRinging, makeSeason, makeSightings } from "./records.mjs";
import { makeReport } from "./report.mjs";
import { recordCall } from "./sounds.mjs";
import { fileName, groups, species } from "./species.mjs";

const here = dirname(fileURLToPath(import.meta.url));
const out = process.argv[2] ?? join(here, "..");
const site = join(out, "site");
const require = createRequire(import.meta.url);

const json = (value) => `${JSON.stringify(value, null, 2)}\n`;

// What the observatory keeps for anyone to browse and download: a folder of many kinds of files.
function makeArchive() {
  const sightings = makeSightings();
  const curlew = species.find(({ id }) => id === "curlew");
  const transects = Array.from({ length: 12 }, (_, i) => [
    `archive/2026/transects/transect-${i + 1}.csv`,
    formatCsv(sightings.filter((_one, row) => row % 12 === i)),
  ]);
  return {
    "archive/2025/sightings.csv": formatCsv(
      sightings.slice(0, 40).map((row) => ({ ...row, date: row.date.replace("2026", "2025") })),
    ),
    ...Object.fromEntries(transects),
    "archive/2026/sightings.csv": formatCsv(sightings),
    "archive/2026/places.geojson": json(makePlaces()),
    "archive/2026/dawn chorus at the north hide.wav": recordCall(curlew, 2),
    "archive/2026/view from the hide.png": new Resvg(drawLandscape(), {
      fitTo: { mode: "width", value: 320 },
    })
      .render()
      .asPng(),
    "archive/2026/Óðinshani at the lochan.svg": drawPlate(species.find(({ id }) => id === "Óðinshani")),
    "archive/2026/notes & corrections.txt": "14 January: seven owls, not six. One was sitting on the sign.\n",
    "archive/2026/יומן שדה.txt": "The field diary of a guest, kept under the name she gave it.\n",
    "archive/2026/index of ringing.json": json(makeRinging().slice(0, 20)),
  };
}

const season = makeSeason();
const view = new Resvg(drawLandscape(), { fitTo: { mode: "width", value: 1120 } }).render().asPng();
const files = {
  "index.html": frontPage(),
  "404.html": missingPage(),
  "visit.html": visitPage(),
  "notes/Notes from the lighthouse.html": notesPage(),
  "guide/index.html": guidePage(),
  ...Object.fromEntries(groups.map((group) => [`guide/${group.id}/index.html`, groupPage(group)])),
  ...Object.fromEntries(species.map((bird) => [`guide/${bird.group}/${fileName(bird)}`, birdPage(bird)])),
  "images/favicon.svg": favicon,
  "images/view-from-the-hide.png": view,
  "images/view-from-the-hide.avif": await sharp(view).avif({ quality: 60, effort: 2 }).toBuffer(),
  "images/view-from-the-hide.webp": await sharp(view).webp({ quality: 80 }).toBuffer(),
  ...Object.fromEntries(species.map((bird) => [`images/plates/${bird.id}.svg`, drawPlate(bird)])),
  ...Object.fromEntries(species.map((bird) => [`recordings/${bird.name} call.wav`, recordCall(bird, 1.35)])),
  "records/2026/sightings.csv": formatCsv(makeSightings()),
  "records/2026/ringing.csv": formatCsv(makeRinging()),
  "records/2026/season.json": json(season),
  "records/2026/places.geojson": json(makePlaces()),
  "reports/Season report 2026.pdf": await makeReport(season),
  ...makeArchive(),
  "scripts/season.js": await readFile(join(here, "season.js")),
  "styles/larkholm.css": await readFile(join(here, "larkholm.css")),
};

for (const folder of ["site", "archive"]) await rm(join(out, folder), { recursive: true, force: true });
for (const [path, content] of Object.entries(files)) {
  const full = join(path.startsWith("archive/") ? out : site, path.normalize("NFC"));
  await mkdir(dirname(full), { recursive: true });
  await writeFile(full, content);
}
const font = dirname(require.resolve("@fontsource/young-serif/package.json"));
await mkdir(join(site, "fonts"), { recursive: true });
await copyFile(
  join(font, "files", "young-serif-latin-400-normal.woff2"),
  join(site, "fonts", "young-serif.woff2"),
);
await copyFile(join(font, "LICENSE"), join(site, "fonts", "young-serif-licence.txt"));
console.log(`Made ${Object.keys(files).length + 2} files in ${out}.`);
