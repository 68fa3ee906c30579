// Builds twice with Vite: what browsers load, and what renders pages here.
import { join } from "node:path";
import { build as viteBuild } from "vite";

const root = join(import.meta.dirname, "source");
const shared = { root, configFile: false, logLevel: "warn" };

export async function build() {
  const outDir = (name) => join(import.meta.dirname, "dist", name);
  await viteBuild({ ...shared, build: { outDir: outDir("client"), emptyOutDir: true } });
  await viteBuild({
    ...shared,
    build: { outDir: outDir("server"), emptyOutDir: true, ssr: join(root, "render.js") },
  });
}
