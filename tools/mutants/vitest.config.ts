import { defineConfig } from "vitest/config";
import { BaseSequencer, type TestSpecification } from "vitest/node";

/** The tests that run the code in this process, so that a fault in src/ shows without a build, by the folder that they are about. */
const ANSWERS = [
  "core/{fields,media-table,media-types,names,pieces,preconditions,range,spans,target}",
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
const CARRIED_OUT = ["adapters", "leaks", "protocols", "server", "turns"];
const SUITES: Readonly<Record<string, readonly string[]>> = {
  core: [...ANSWERS, "core/pattern", "kept", "looks", "testing/checks", "testing/language"],
  config: [...ANSWERS, "exposures", "messages", "testing/checks", "testing/format"],
  sources: [...ANSWERS, "kept", "race", "looks", "sealed-source", "messages"],
  site: [...ANSWERS, "exposures", "kept", "lab", "log", "vite", "browser-core", "messages"],
  adapters: ["client", "delivery", "exit", "http", "kept", "log", "preloads", ...CARRIED_OUT],
  reading: [
    "reading/{contents,picture}",
    "linear",
    "preloads",
    "protect",
    "survey",
    "testing/hostile",
    "testing/run",
  ],
  inspection: ["explain", "golden", "lab", "testing/run"],
  survey: ["exposures", "lost", "survey", "walk"],
  lab: ["lab", "walk"],
  vite: ["vite"],
  testing: [
    "golden",
    "explain",
    "testing/{ask,checks,discover,message,format,golden,language,pack-fields,packs,probe,run}",
  ],
};

/** Those that take seconds come last: the others notice most faults before. */
const SLOW = /\/(pattern|releases|race|kept|leaks|server|golden|fault-bank)\.test\.m?[tj]s$/;

class QuickFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const [quick, slow] = [false, true].map((wanted) =>
      files.filter(({ moduleId }) => SLOW.test(moduleId) === wanted),
    );
    return [...quick!, ...slow!];
  }
}

const folder = process.env.EPISTYLE_MUTANTS_FOLDER ?? "core";
/** Servers with one fault each, which the packs find: most of what the packs are about is asked of them alone. */
const BANK = "tools/mutants/fault-bank.test.mjs";

export default defineConfig({
  cacheDir: ".cache/vite",
  test: {
    include: [
      ...SUITES[folder]!.map((name) => `test/${name}.test.ts`),
      ...(folder === "testing" ? [BANK] : []),
    ],
    // One import of src/ for all files of a run.
    isolate: false,
    env: { EPISTYLE_RACE_MS: "60" },
    setupFiles: ["tools/mutants/count-hooks.mjs", "tools/mutants/check-closed.ts"],
    sequence: { sequencer: QuickFirst },
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
