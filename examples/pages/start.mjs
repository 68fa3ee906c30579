import { start } from "../start.mjs";

await start("A site of pages", import.meta.dirname, {
  "/": "the front page",
  "/birds/curlew": "a page without its extension",
  "/species/curlew": "an address that moved",
  "/nothing": "a page for what is missing",
});
