import { start } from "../start.mjs";

await start("An archive to browse", import.meta.dirname, {
  "/": "a page that reads the listing as JSON, and sends files",
  "/records/2026/": "the listing, with a theme",
  "/records/2026/?digests": "digests of its files",
  "/uploads/": "what was sent while the server runs",
});
