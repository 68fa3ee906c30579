import { defineConfig } from "vitest/config";

/** The tests that run the code in this process, so that a fault in src/ shows without a build, by the folder that they are about. */
const ANSWERS = [
  "core/*",
  "client",
  "decision",
  "delivery",
  "digests",
  "error-pages",
  "exit",
  "explain",
  "folder",
  "golden",
  "http",
  "listing",
  "memory",
  "moved",
  "preloads",
  "protect",
  "releases",
  "seal",
  "shared-cache",
  "sources",
  "startup",
  "variants",
];
const CARRIED_OUT = ["adapters", "leaks", "protocols", "server"];
const SUITES: Readonly<Record<string, readonly string[]>> = {
  core: [...ANSWERS, "kept", "testing/checks", "testing/language"],
  config: [...ANSWERS, "messages", "testing/format"],
  sources: [...ANSWERS, "kept", "race"],
  site: [...ANSWERS, "lab", "vite", "browser-core", "messages"],
  adapters: ["client", "delivery", "exit", "http", "kept", "log", "preloads", ...CARRIED_OUT],
  testing: ["testing/{ask,checks,format,golden,language,packs,probe,run}"],
};

export default defineConfig({
  cacheDir: ".cache/vite",
  test: {
    include: SUITES[process.env.EPISTYLE_MUTANTS_FOLDER ?? "core"]!.map((name) => `test/${name}.test.ts`),
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
