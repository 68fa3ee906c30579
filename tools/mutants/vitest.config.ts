import { defineConfig } from "vitest/config";

// The tests that run the code in this process: a fault in src/ shows there without a build.
export default defineConfig({
  cacheDir: ".cache/vite",
  test: {
    include: ["test/**/*.test.ts"],
    exclude: [
      "test/browser/**",
      "test/cli.test.ts",
      "test/docs.test.ts",
      "test/testing/commands.test.ts",
      // They run what was built.
      "test/survey.test.ts",
      "test/serve.test.ts",
      "test/deploying.test.ts",
      "test/replicas.test.ts",
      "test/lost.test.ts",
      // Time says nothing while every branch is counted.
      "test/linear.test.ts",
    ],
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
