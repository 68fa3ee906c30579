// npm run survey-bank: how many planted problems a survey finds, and how often it says something of a site that is right.
// Ends with status 1 where a problem is missed, or an alarm is false.
import { build } from "../tools/setup.mjs";

build();
const { surveySite } = await import("../.cache/build/survey/index.js");
const { runBank } = await import("./survey-bank/run.mjs");

const { problems, rightTrees, missed, falseAlarms } = await runBank(surveySite);
console.log(`Planted problems: ${problems - missed.length} of ${problems} found.`);
for (const one of missed) console.log(`  missed: ${one}`);
console.log(
  `False alarms, on ${rightTrees} right sites and beside the planted problems: ${falseAlarms.length}.`,
);
for (const one of falseAlarms) console.log(`  ${one}`);
process.exit(missed.length + falseAlarms.length === 0 ? 0 : 1);
