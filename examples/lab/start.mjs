import { start } from "../start.mjs";
import * as example from "./server.mjs";

await start("The lab, with the demo's site in memory,", example, {
  "/": "ask, change the configuration, and see what changes",
});
