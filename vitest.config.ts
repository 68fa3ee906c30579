import { defineConfig } from "vitest/config";

const globalSetup = "test/global-setup.mjs";

export default defineConfig({
  test: {
    projects: [
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
