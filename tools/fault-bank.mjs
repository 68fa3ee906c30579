// npm run fault-bank: what the packs say of servers that are right, each of another style. Ends with status 1 at any alarm.
import { build } from "./setup.mjs";

build();
const product = await import("../.cache/build/testing/index.js");
const { runRightServers } = await import("../test/fault-bank/run.mjs");
const alarms = await runRightServers(product);
for (const { what, lines } of alarms) {
  console.log(`${lines.length === 0 ? "right " : "ALARM "} ${what}`);
  for (const line of lines) console.log(`         ${line}`);
}
const count = alarms.reduce((sum, { lines }) => sum + lines.length, 0);
console.log(`${alarms.length} right servers, ${count} false alarms.`);
process.exit(count === 0 ? 0 : 1);
