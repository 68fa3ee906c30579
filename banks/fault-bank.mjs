// npm run fault-bank [-- AREA …] [--missed] [--all]: what packs, drafts and comparisons find in servers with one fault each, and what they say
// of servers that are right. Ends with status 1 at any false alarm, or where something else is found than docs/testing.md says.

import { build } from "../tools/setup.mjs";
import { countFound, isFound, readPromises } from "./fault-bank/table.mjs";

const asked = process.argv.slice(2);
build();
const of = (path) => import(`../.cache/build/testing/${path}.js`);
const product = Object.assign(
  {},
  ...(await Promise.all(
    [
      "index",
      "draft/from-site",
      "draft/write",
      "discover/sample",
      "compare/compare",
      "compare/questions",
    ].map(of),
  )),
);
const { runFaults, runRightServers } = await import("./fault-bank/run.mjs");
const { FAULTS } = await import("./fault-bank/faults/index.mjs");

const areas = asked.filter((one) => !one.startsWith("--"));
const faults = FAULTS.filter(({ area }) => areas.length === 0 || areas.includes(area));
const rows = await runFaults(product, faults, {
  onRow(row) {
    if (asked.includes("--all"))
      console.log(
        `${row.packs.length} ${row.draft.length} ${row.compare.length} ${row.speaks ? " " : "?"} ${row.area}: ${row.what}\n      ${row.packs[0] ?? row.draft[0] ?? row.compare[0]}`,
      );
  },
});
for (const row of rows.filter((one) => one.packs.length === 0))
  console.log(`${isFound(row) ? "not by packs" : "MISSED      "} ${row.area}: ${row.what}`);
for (const row of rows.filter((one) => isFound(one) && !one.speaks))
  console.log(
    `says else    ${row.area}: ${row.what}\n             ${[...row.packs, ...row.draft, ...row.compare][0]}`,
  );

const alarms = areas.length > 0 ? [] : await runRightServers(product);
for (const { what, lines } of alarms) for (const line of lines) console.log(`ALARM        ${what}: ${line}`);
const count = alarms.reduce((sum, { lines }) => sum + lines.length, 0);

const areasOfRows = [...new Set(rows.map(({ area }) => area)), ...(areas.length > 0 ? [] : ["all"])];
const table = areasOfRows.map((area) => [
  area,
  countFound(rows.filter((row) => area === "all" || row.area === area)),
]);
console.table(Object.fromEntries(table));
console.log(`${alarms.length} right servers, ${count} false alarms.`);

const promises = readPromises();
const broken = table.flatMap(([area, counts]) =>
  Object.entries(counts)
    .filter(([column, number]) => number !== promises[area]?.[column])
    .map(
      ([column, number]) => `${area}, ${column}: ${number}; docs/testing.md says ${promises[area]?.[column]}`,
    ),
);
for (const line of broken) console.log(line);
process.exit(count === 0 && broken.length === 0 ? 0 : 1);
