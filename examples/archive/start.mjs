import { start } from "../start.mjs";
import * as example from "./server.mjs";

await start("An archive to browse", example, {
  "/": "a page that reads the listing as JSON",
  "/records/2026/": "the listing, with a theme",
  "/records/2026/?digests": "digests of its files",
});
