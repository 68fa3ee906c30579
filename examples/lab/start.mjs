import { start } from "../start.mjs";

await start("The lab, with the demo's site in memory,", import.meta.dirname, {
  "/": "ask, change the configuration, and see what changes",
});
