import { start } from "../start.mjs";

await start("A Service Worker that answers off line", import.meta.dirname, {
  "/": "load it once, stop the server, and load it again",
  "/birds/curlew": "a deep link, which the worker answers, too",
});
