// A small single-page application: routes by path, so that a reload or a sent link comes back to the same place.
import { drawFailure, drawList, drawMissing, drawSighting, drawSpecies } from "./views.js";

const BASE = import.meta.env.BASE_URL;
const view = document.getElementById("view");

const routes = [
  [/^$/, drawList],
  [/^sightings\/(\d+)$/, drawSighting],
  [/^species\/(.+)$/, drawSpecies],
];

async function show() {
  const path = decodeURIComponent(location.pathname.slice(BASE.length)).replace(/\/$/, "");
  const [match, draw] = routes
    .map(([pattern, action]) => [pattern.exec(path), action])
    .find(([found]) => found !== null) ?? [[path, path], drawMissing];
  const { title, content } = await Promise.resolve(match[1]).then(draw).catch(drawFailure);
  document.title = `${title} · Larkholm Bird Observatory`;
  view.replaceChildren(...content);
}

document.addEventListener("click", (event) => {
  const link = event.target.closest("a[data-route]");
  if (link === null || event.metaKey || event.ctrlKey || event.shiftKey) return;
  event.preventDefault();
  history.pushState(null, "", link.href);
  show();
});
window.addEventListener("popstate", show);
show();
