import fc from "fast-check";
import { expect, test } from "vitest";
import { openChanges, step } from "../fuzz/changes.mjs";
import { readPlan } from "../src/adapters/in-process.js";
import { nodeHandler } from "../src/adapters/node.js";
import { openSite } from "../src/index.js";

/** Long runs are made apart: `npm run fuzz -- --only changes`. */
const STEPS = 1500;

test("whatever changes in a tree shows at once: each answer is that of a fresh site", async () => {
  const changes = await openChanges({ openSite, nodeHandler, readPlan });
  const outcomes = new Map<string, number>();
  let mostKept = 0;
  try {
    const steps = fc.sample(step, { numRuns: STEPS / 4, seed: 20_261_126 });
    for (const { how, asks, a, b } of steps) {
      changes.change(how, a, b);
      for (let i = 0; i < asks; i++) {
        // The same is asked more than once, so that it is kept.
        const outcome = await changes.ask(a + (i >> 1), b + (i >> 2));
        outcomes.set(outcome, (outcomes.get(outcome) ?? 0) + 1);
      }
      mostKept = Math.max(mostKept, changes.kept());
    }
  } finally {
    await changes.close();
  }
  expect(mostKept).toBeGreaterThan(10);
  expect([...outcomes.keys()].sort()).toEqual(expect.arrayContaining(["200", "206", "301", "304", "404"]));
}, 120_000);
