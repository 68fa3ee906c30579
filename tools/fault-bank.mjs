// npm run fault-bank [-- AREA …] [--missed] [--all]: what packs, drafts and comparisons find in servers with one fault each, and what they say
// of servers that are right. Ends with status 1 at any false alarm, or where less is found than promised.
import { build } from "./setup.mjs";

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
const { runFaults, runRightServers } = await import("../test/fault-bank/run.mjs");
const { FAULTS } = await import("../test/fault-bank/faults/index.mjs");

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
const found = (row) => row.packs.length + row.draft.length + row.compare.length > 0;
for (const row of rows.filter((one) => one.packs.length === 0))
  console.log(`${found(row) ? "not by packs" : "MISSED      "} ${row.area}: ${row.what}`);
for (const row of rows.filter((one) => found(one) && !one.speaks))
  console.log(
    `says else    ${row.area}: ${row.what}\n             ${[...row.packs, ...row.draft, ...row.compare][0]}`,
  );

const alarms = areas.length > 0 ? [] : await runRightServers(product);
for (const { what, lines } of alarms) for (const line of lines) console.log(`ALARM        ${what}: ${line}`);
const count = alarms.reduce((sum, { lines }) => sum + lines.length, 0);

const table = [...new Set(rows.map(({ area }) => area)), "all"].map((area) => {
  const own = rows.filter((row) => area === "all" || row.area === area);
  const by = (holds) => own.filter(holds).length;
  return {
    area,
    faults: own.length,
    packs: by(({ packs }) => packs.length > 0),
    draft: by(({ draft }) => draft.length > 0),
    compare: by(({ compare }) => compare.length > 0),
    together: by(found),
    named: by(({ speaks }) => speaks),
  };
});
console.table(Object.fromEntries(table.map(({ area, ...row }) => [area, row])));
console.log(`${alarms.length} right servers, ${count} false alarms.`);
const { faults: all, packs, together } = table.at(-1);
process.exit(count === 0 && packs / all >= 0.92 && together / all >= 0.97 ? 0 : 1);
