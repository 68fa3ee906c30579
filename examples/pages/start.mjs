import { start } from "../start.mjs";
import * as example from "./server.mjs";

await start("A site of pages", example, {
  "/": "the front page",
  "/birds/curlew": "a page without its extension",
  "/species/curlew": "an address that moved",
  "/nothing": "a page for what is missing",
});
