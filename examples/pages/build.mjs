// Builds the pages with Vite: every document of source/ is one.
import { readdir } from "node:fs/promises";
import { join } from "node:path";
import { build as viteBuild } from "vite";

const root = join(import.meta.dirname, "source");

export async function build() {
  const pages = (await readdir(root, { recursive: true })).filter((name) => name.endsWith(".html"));
  await viteBuild({
    root,
    configFile: false,
    logLevel: "warn",
    build: {
      outDir: join(import.meta.dirname, "dist"),
      emptyOutDir: true,
      rolldownOptions: { input: pages.map((name) => join(root, name)) },
    },
  });
}
