import { start } from "../start.mjs";

await start("A server-rendered application", import.meta.dirname, {
  "/": "rendered here",
  "/birds/curlew": "rendered here, with a script of the build",
  "/nothing": "the application's own 404",
});
