import { start } from "../start.mjs";
import * as example from "./server.mjs";

await start("A Service Worker that answers off line", example, {
  "/": "load it once, stop the server, and load it again",
  "/birds/curlew": "a deep link, which the worker answers, too",
});
