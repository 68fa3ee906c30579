// What the fault bank finds, counted by area, and what docs/testing.md promises of it.
import { readFileSync } from "node:fs";

const COLUMNS = ["faults", "packs", "draft", "compare", "together", "named"];

export const isFound = ({ packs, draft, compare }) => packs.length + draft.length + compare.length > 0;

/** How many of the faults are found, by packs, by a draft, by a comparison and by any of them, and named. */
export function countFound(rows) {
  const by = (holds) => rows.filter(holds).length;
  return {
    faults: rows.length,
    packs: by(({ packs }) => packs.length > 0),
    draft: by(({ draft }) => draft.length > 0),
    compare: by(({ compare }) => compare.length > 0),
    together: by(isFound),
    named: by(({ speaks }) => speaks),
  };
}

/** The same counts, by area, as the documentation tells them. */
export function readPromises() {
  const page = readFileSync(new URL("../../docs/testing.md", import.meta.url), "utf8");
  const rows = page.matchAll(/^\| \**(\w+)\** \|((?: \d+ \|){6})$/gm);
  return Object.fromEntries(
    Array.from(rows, ([, area, counts]) => {
      const numbers = counts.match(/\d+/g).map(Number);
      return [area, Object.fromEntries(COLUMNS.map((column, index) => [column, numbers[index]]))];
    }),
  );
}
