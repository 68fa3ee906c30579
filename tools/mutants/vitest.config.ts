import { defineConfig } from "vitest/config";

// The tests that run the code in this process: a fault in src/ shows there without a build.
export default defineConfig({
  cacheDir: ".cache/vite",
  test: {
    include: ["test/**/*.test.ts"],
    exclude: [
      "test/browser/**",
      "test/survey.test.ts",
      "test/cli.test.ts",
      "test/docs.test.ts",
      "test/testing/commands.test.ts",
    ],
    testTimeout: 20_000,
    hookTimeout: 20_000,
  },
});
