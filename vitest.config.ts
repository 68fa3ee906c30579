import { defineConfig } from "vitest/config";

const globalSetup = "test/global-setup.mjs";

/** The tables of what is answered, over other sources than a live folder: they open their sites through test/counting-source.ts. */
const TABLES = [
  "adapters",
  "core/media-types",
  "decision",
  "delivery",
  "error-pages",
  "exit",
  "explain",
  "golden",
  "http",
  "listing",
  "preloads",
  "protect",
  "protocols",
  "shared-cache",
  "testing/golden",
  "testing/run",
  "variants",
].map((name) => `test/${name}.test.ts`);

const over = (sources: string, ...more: string[]) => ({
  test: {
    name: sources,
    globalSetup,
    include: [...TABLES, ...more],
    env: { EPISTYLE_SOURCES: sources },
    setupFiles: ["test/departures.ts"],
    testTimeout: 30_000,
    hookTimeout: 30_000,
  },
});

export default defineConfig({
  test: {
    projects: [
      over("proved", "test/folder.test.ts", "test/sources.test.ts"),
      over("sealed"),
      {
        test: {
          name: "unit",
          globalSetup,
          include: ["test/**/*.test.ts"],
          exclude: ["test/browser/**"],
          testTimeout: 30_000,
          hookTimeout: 30_000,
        },
      },
      {
        test: {
          name: "browser",
          globalSetup,
          include: ["test/browser/**/*.test.ts"],
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
