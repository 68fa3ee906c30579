import { start } from "../start.mjs";
import * as example from "./server.mjs";

await start("A server-rendered application", example, {
  "/": "rendered here",
  "/birds/curlew": "rendered here, with a script of the build",
  "/nothing": "the application's own 404",
});
