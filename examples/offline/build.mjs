// Builds the application, and then the worker, which has the application's files in it.
import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import { build as viteBuild } from "vite";

const here = import.meta.dirname;
const outDir = join(here, "dist");
const shared = { root: join(here, "source"), configFile: false, logLevel: "warn" };

export async function build() {
  await viteBuild({ ...shared, build: { outDir, emptyOutDir: true } });
  const names = (await readdir(outDir, { recursive: true, withFileTypes: true })).filter((one) =>
    one.isFile(),
  );
  const files = {};
  for (const { parentPath, name } of names) {
    const path = join(parentPath, name);
    files[path.slice(outDir.length + 1)] = (await readFile(path)).toString("base64");
  }
  await viteBuild({
    ...shared,
    plugins: [
      {
        name: "files",
        resolveId: (id) => (id === "virtual:files" ? id : undefined),
        load: (id) =>
          id === "virtual:files"
            ? `export const files = ${JSON.stringify(files)}; export const modified = ${Date.now()};`
            : undefined,
      },
    ],
    build: {
      outDir,
      emptyOutDir: false,
      rolldownOptions: {
        input: join(here, "source/worker.js"),
        // A worker keeps its name: browsers look there for a newer one.
        output: { entryFileNames: "worker.js", codeSplitting: false },
      },
    },
  });
}
