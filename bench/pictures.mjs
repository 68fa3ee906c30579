// What a page of the demo weighs, by what the browser's pictures may be. Usage: node bench/pictures.mjs. Asks in process for the page and
// all that it loads, as each browser would.
import { fileURLToPath } from "node:url";
import { openSite, readPlan } from "epistyle";
import { loadConfigFile } from "epistyle/node";

const PAGE = "/guide/";
const BROWSERS = {
  "names AVIF and WebP": "image/avif,image/webp,image/apng,image/svg+xml,image/*,*/*;q=0.8",
  "names WebP": "image/webp,image/png,image/svg+xml,image/*;q=0.8,*/*;q=0.5",
  "names neither": "image/png,image/svg+xml,image/*;q=0.8,*/*;q=0.5",
};

const config = fileURLToPath(new URL("../demo/epistyle.config.yaml", import.meta.url));
const site = await openSite(await loadConfigFile(config));
const fetch = async (target, accept) => {
  const headers = { accept, "accept-encoding": "br" };
  const answer = await site.respond({ method: "GET", target, headers });
  if (answer.status !== 200) throw new Error(`${target}: ${answer.status}`);
  return { bytes: (await readPlan(answer)).length, type: answer.fields.get("Content-Type") };
};
const page = await site.respond({ method: "GET", target: PAGE, headers: {} });
const text = Buffer.from(await readPlan(page)).toString();
const loaded = [...text.matchAll(/(?:<img[^>]* src|<script[^>]* src|<link[^>]* href)="([^"]+)"/g)].map(
  ([, path]) => path,
);
for (const [browser, accept] of Object.entries(BROWSERS)) {
  let [pictures, rest] = [0, (await fetch(PAGE, "text/html")).bytes];
  for (const path of new Set(loaded)) {
    const { bytes, type } = await fetch(path, accept);
    if (/^image\/(?!svg)/.test(type)) pictures += bytes;
    else rest += bytes;
  }
  console.log(JSON.stringify({ browser, pictures, rest, all: pictures + rest }));
}
