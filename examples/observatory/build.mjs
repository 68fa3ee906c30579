// Builds the example's two front ends with Vite: the sightings explorer (one page) and the field guide (many pages).
import { cp, readdir } from "node:fs/promises";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "vite";

const here = dirname(fileURLToPath(import.meta.url));
const guide = join(here, "..", "..", "demo", "site");
const shared = { configFile: false, logLevel: "warn", publicDir: false };

await build({
  ...shared,
  root: join(here, "explorer"),
  base: "/explorer/",
  build: { outDir: join(here, "dist", "explorer"), emptyOutDir: true },
});

const pages = (await readdir(guide, { recursive: true })).filter((name) => name.endsWith(".html"));
// The guide's pages lead to what this server has beside them.
const linked = {
  name: "observatory-links",
  transformIndexHtml: (html) =>
    html.replace(
      "</nav></header>",
      '<a href="/explorer/">Sightings</a><a href="/archive/">Archive</a></nav></header>',
    ),
};
await build({
  ...shared,
  root: guide,
  plugins: [linked],
  build: {
    outDir: join(here, "dist", "guide"),
    emptyOutDir: true,
    rollupOptions: { input: pages.map((name) => join(guide, name)) },
  },
});
// What pages link to without building it in.
for (const folder of ["records", "reports"]) {
  await cp(join(guide, folder), join(here, "dist", "guide", folder), { recursive: true });
}
