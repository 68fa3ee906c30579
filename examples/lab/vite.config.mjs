import { join } from "node:path";

/** The lab's page with a site in memory: plain files, for any server. */
export default {
  root: import.meta.dirname,
  base: "./",
  oxc: { jsx: { runtime: "automatic", importSource: "preact" } },
  plugins: [
    {
      name: "without-folders",
      enforce: "pre",
      // What needs Node is never asked for here: each mount has a source in memory.
      resolveId(id) {
        const isForNode = /\/(?:open-folder|read-text|compressor|earlier-folders|seal)\.js$/.test(id);
        return isForNode ? join(import.meta.dirname, "../../src/browser/not-here.ts") : undefined;
      },
    },
  ],
  build: {
    outDir: join(import.meta.dirname, "dist"),
    emptyOutDir: true,
    target: "es2022",
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 2000,
    reportCompressedSize: false,
  },
};
