// npm run fuzz: puts generated requests, patterns and files to the product, and holds what comes of them against what must always
// be so. It ends by itself, with a table; with status 1, and the least input that it was found with, at the first that is not.
//   --inputs N    how many inputs in all (default 1,000,000)
//   --seed N      the seed of an earlier run (default: the time)
//   --only KIND   one kind alone
import { parseArgs } from "node:util";
import fc from "fast-check";
import { build } from "../tools/setup.mjs";

build();
const { requests } = await import("./requests.mjs");
const { changes } = await import("./changes.mjs");
const { patterns } = await import("./patterns.mjs");
const { answers } = await import("./answers.mjs");
const { configurations, expectations, recordings, seals } = await import("./files.mjs");

const { values: options } = parseArgs({
  options: {
    inputs: { type: "string", default: "1000000" },
    seed: { type: "string", default: String(Date.now() % 2 ** 31) },
    only: { type: "string" },
  },
});

/** A property in portions of so many inputs, so that its progress shows. */
const PORTION = 10_000;
/** Nothing that fits in a request or a small file may take longer, in milliseconds. */
const SLOWEST_MS = 2000;

/** Runs one kind; gives its row of the table. */
async function fuzz(kind, inputs, seed) {
  const { arbitrary, check, close } = await kind.open();
  const outcomes = new Map();
  let slowest = 0;
  const started = performance.now();
  try {
    for (let done = 0; done < inputs; done += PORTION) {
      const property = fc.asyncProperty(arbitrary, async (input) => {
        const before = performance.now();
        const outcome = await check(input);
        const milliseconds = performance.now() - before;
        if (milliseconds > (kind.slowestMs ?? SLOWEST_MS))
          throw new Error(`It took ${Math.round(milliseconds)} ms.`);
        slowest = Math.max(slowest, milliseconds);
        outcomes.set(outcome, (outcomes.get(outcome) ?? 0) + 1);
      });
      await fc.assert(property, { seed: seed + done, numRuns: Math.min(PORTION, inputs - done) });
    }
  } finally {
    await close();
  }
  const seconds = Math.round((performance.now() - started) / 1000);
  const shown = [...outcomes].sort((a, b) => b[1] - a[1]).slice(0, 8);
  const told = shown.map(([outcome, count]) => `${outcome} ${count.toLocaleString("en-GB")}`).join(", ");
  return { name: kind.name, inputs, seconds, slowest: `${Math.round(slowest)} ms`, told };
}

const kinds = [requests, patterns, configurations, expectations, recordings, seals, answers, changes];
const chosen = kinds.filter(({ name }) => options.only === undefined || name === options.only);
if (chosen.length === 0) {
  console.error(`--only: found ${options.only}; write one of ${kinds.map(({ name }) => name).join(", ")}.`);
  process.exit(2);
}
const shares = chosen.reduce((sum, { share }) => sum + share, 0);
const seed = Number(options.seed);
console.log(`Seed ${seed}.`);
let all = 0;
for (const kind of chosen) {
  const row = await fuzz(kind, Math.ceil((Number(options.inputs) * kind.share) / shares), seed);
  all += row.inputs;
  console.log(
    `${row.name}: ${row.inputs.toLocaleString("en-GB")} inputs in ${row.seconds} s, the slowest ${row.slowest}: ${row.told}.`,
  );
}
console.log(`${all.toLocaleString("en-GB")} inputs, and each was answered as it must be.`);
