import { defineConfig } from "vitest/config";

const globalSetup = "test/global-setup.mjs";

/** A machine that is busy with other things makes no test fail: what never comes is given up late. In milliseconds. */
const LIMIT_MS = Number(process.env.EPISTYLE_TEST_SECONDS ?? 240) * 1000;
const LIMITS = { testTimeout: LIMIT_MS, hookTimeout: LIMIT_MS, expect: { poll: { timeout: 60_000 } } };

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

/** Each of these runs in a process of its own: they count descriptors, processor time and listeners, or stand in for a part of the platform. */
const APART = [
  "adapters",
  "core/pattern",
  "folder",
  "http",
  "leaks",
  "life",
  "linear",
  "looks",
  "moved",
  "race",
  "server",
  "sources",
  "testing/ask",
  "walk",
].map((name) => `test/${name}.test.ts`);

/** Tests of one project share a process and what it has loaded, unless they are apart. */
const over = (sources: string, ...more: string[]) => ({
  test: {
    name: sources,
    globalSetup,
    include: [...TABLES, ...more],
    isolate: false,
    env: { EPISTYLE_SOURCES: sources },
    setupFiles: ["test/departures.ts"],
    ...LIMITS,
  },
});

export default defineConfig({
  test: {
    projects: [
      over("proved", "test/folder.test.ts", "test/sources.test.ts"),
      over("sealed"),
      over("stored"),
      {
        test: {
          name: "unit",
          globalSetup,
          include: ["test/**/*.test.ts"],
          exclude: ["test/browser/**", ...APART],
          isolate: false,
          ...LIMITS,
        },
      },
      {
        test: {
          name: "apart",
          globalSetup,
          include: APART,
          ...LIMITS,
        },
      },
      {
        test: {
          name: "browser",
          globalSetup,
          include: ["test/browser/**/*.test.ts"],
          isolate: false,
          ...LIMITS,
        },
      },
    ],
  },
});
