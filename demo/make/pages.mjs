// The pages of the field guide, as plain HTML without anything that has to run to be read.
import { drawLandscape } from "./plates.mjs";
import { fileName, groups, species } from "./species.mjs";

const REPORT = "/reports/Season%20report%202026.pdf";
const href = (bird) => `/guide/${bird.group}/${encodeURIComponent(fileName(bird))}`;
const plate = (bird) => `/images/plates/${encodeURIComponent(bird.id)}.svg`;
const recording = (bird) => `/recordings/${encodeURIComponent(`${bird.name} call.wav`)}`;

function page({ title, section = "", head = "", body, wide = false }) {
  const link = (to, text, id) => `<a href="${to}"${section === id ? ' aria-current="page"' : ""}>${text}</a>`;
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${title} · Larkholm Bird Observatory</title>
<link rel="icon" href="/images/favicon.svg" type="image/svg+xml">
<link rel="preload" href="/fonts/young-serif.woff2" as="font" type="font/woff2" crossorigin>
<link rel="stylesheet" href="/styles/larkholm.css">
${head}</head>
<body>
<header class="top"><a class="name" href="/">Larkholm <span>Bird Observatory</span></a>
<nav aria-label="Main">${link("/guide/", "Field guide", "guide")}${link("/notes/Notes%20from%20the%20lighthouse.html", "Notes", "notes")}${link("/visit.html", "Visit", "visit")}</nav></header>
<main${wide ? ' class="wide"' : ""}>
${body}
</main>
<footer><p>Larkholm is a made-up place, and its observatory with it. Records of the season: <a href="/records/2026/sightings.csv">sightings (CSV)</a>, <a href="/records/2026/season.json">season (JSON)</a>, <a href="/records/2026/places.geojson">places (GeoJSON)</a>, <a href="${REPORT}">report (PDF)</a>.</p></footer>
</body>
</html>
`;
}

const card = (bird) =>
  `<a class="card" href="${href(bird)}"><img src="${plate(bird)}" width="400" height="300" alt=""><b>${bird.name}</b><i>${bird.latin}</i></a>`;

export function frontPage() {
  const tern = species.find(({ id }) => id === "arctic-tern");
  return page({
    title: "Field guide and season",
    wide: true,
    head: '<script type="module" src="/scripts/season.js"></script>\n',
    body: `<section class="hero">
${drawLandscape()}
<div class="words"><h1>What flew past this year</h1><p>Eight birds to know on the holm, the sounds they make, and what was counted between the ice of January and the last of the thrushes.</p></div>
</section>
<section class="columns">
<div><h2>The season, month by month</h2><div id="season" class="chart" data-source="/records/2026/season.json"><p>The chart is drawn from <a href="/records/2026/season.json">season.json</a>.</p></div></div>
<div><h2>Call of the week</h2><p><a href="${href(tern)}">${tern.name}</a>, over the shingle at first light.</p><audio controls preload="metadata" src="${recording(tern)}"></audio><p><a class="button" href="${REPORT}">Season report 2026 <small>PDF</small></a></p></div>
</section>
<section><h2>Birds of the guide</h2><div class="cards">${species.map(card).join("\n")}</div></section>`,
  });
}

export function guidePage() {
  return page({
    title: "Field guide",
    section: "guide",
    wide: true,
    body: `<h1>Field guide</h1>
<figure class="view"><img src="/images/view-from-the-hide.png" width="1120" height="525" alt="Sea, stacks and the lighthouse in evening light"><figcaption>The view from the north hide, evening of 21 September.</figcaption></figure>
${groups
  .map(
    (group) =>
      `<section><h2><a href="/guide/${group.id}/">${group.title}</a></h2><p>${group.line}</p><div class="cards">${species
        .filter((bird) => bird.group === group.id)
        .map(card)
        .join("\n")}</div></section>`,
  )
  .join("\n")}`,
  });
}

export function groupPage(group) {
  return page({
    title: group.title,
    section: "guide",
    wide: true,
    body: `<p class="trail"><a href="/guide/">Field guide</a></p><h1>${group.title}</h1><p>${group.line}</p>
<div class="cards">${species
      .filter((bird) => bird.group === group.id)
      .map(card)
      .join("\n")}</div>`,
  });
}

export function birdPage(bird) {
  const group = groups.find(({ id }) => id === bird.group);
  return page({
    title: bird.name,
    section: "guide",
    body: `<p class="trail"><a href="/guide/">Field guide</a> / <a href="./">${group.title}</a></p>
<h1>${bird.name}</h1><p class="latin">${bird.latin}</p>
<figure><img src="${plate(bird)}" width="400" height="300" alt="Plate: ${bird.name}"></figure>
<p>${bird.text}</p>
<dl><div><dt>Length</dt><dd>${bird.length}</dd></div><div><dt>On the holm</dt><dd>${bird.season}</dd></div><div><dt>Counted in 2026</dt><dd>${bird.count.toLocaleString("en-GB")}</dd></div></dl>
<p>${bird.status}</p>
<h2>Call</h2><audio controls preload="metadata" src="${recording(bird)}"></audio>`,
  });
}

export function notesPage() {
  return page({
    title: "Notes from the lighthouse",
    section: "notes",
    body: `<h1>Notes from the lighthouse</h1>
<p><b>3 June.</b> Flat calm. Fulmars counted from the boat, the first time in four years that nobody was ill.</p>
<p><b>11 June.</b> Three phalaropes on the lochan. The old keeper wrote <a href="/guide/waders/%C3%93%C3%B0inshani.html">Óðinshani</a> in his log in 1931, and we keep the name for the page.</p>
<p><b>21 September.</b> East wind and rain from midnight. By breakfast the walled garden was full of goldcrests, and so was the kitchen.</p>`,
  });
}

export function visitPage() {
  return page({
    title: "Visit",
    section: "visit",
    body: `<h1>Visit</h1><p>The north hide is open from dawn to dusk, all year. The ferry crosses at half tide; the boat leaves without the late.</p>
<dl><div><dt>Ferry</dt><dd>Tuesday, Friday, Sunday</dd></div><div><dt>Beds</dt><dd>Twelve, in the keepers' cottages</dd></div><div><dt>Bring</dt><dd>A hat, in the tern season</dd></div></dl>`,
  });
}

export function missingPage() {
  return page({
    title: "Not seen here",
    body: `<h1>Not seen here</h1><p>There is no record at this address. It may have moved on, or was never ringed in the first place.</p><p><a class="button" href="/guide/">Back to the field guide</a></p>`,
  });
}
