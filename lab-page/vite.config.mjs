import { join } from "node:path";

/** The lab's page, for the package: plain files with relative addresses. */
export default {
  root: import.meta.dirname,
  base: "./",
  oxc: { jsx: { runtime: "automatic", importSource: "preact" } },
  build: {
    outDir: join(import.meta.dirname, "../dist/lab/page"),
    emptyOutDir: true,
    modulePreload: { polyfill: false },
    reportCompressedSize: false,
  },
};
