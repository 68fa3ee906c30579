// Builds the pages with Vite: every document of source/ is one. The plugin checks what was built.
import { readdir } from "node:fs/promises";
import { join } from "node:path";
import { epistyle } from "epistyle/vite";
import { build as viteBuild } from "vite";

const here = (path) => join(import.meta.dirname, path);
const root = here("source");

export async function build() {
  const pages = (await readdir(root, { recursive: true })).filter((name) => name.endsWith(".html"));
  await viteBuild({
    root,
    configFile: false,
    logLevel: "warn",
    plugins: [
      epistyle({
        config: here("epistyle.config.yaml"),
        survey: "warning",
        check: [here("expectations.yaml")],
      }),
    ],
    build: {
      outDir: here("dist"),
      emptyOutDir: true,
      rolldownOptions: { input: pages.map((name) => join(root, name)) },
    },
  });
}
