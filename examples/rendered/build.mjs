// Builds twice with Vite: what browsers load, and what renders pages here. The plugin looks at the first only.
import { join } from "node:path";
import { epistyle } from "epistyle/vite";
import { build as viteBuild } from "vite";

const here = (path) => join(import.meta.dirname, path);
const shared = { root: here("source"), configFile: false, logLevel: "warn" };

export async function build() {
  await viteBuild({
    ...shared,
    plugins: [epistyle({ config: here("epistyle.config.yaml"), check: [here("expectations.yaml")] })],
    build: { outDir: here("dist/client"), emptyOutDir: true },
  });
  await viteBuild({
    ...shared,
    build: { outDir: here("dist/server"), emptyOutDir: true, ssr: here("source/render.js") },
  });
}
