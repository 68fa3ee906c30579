import { start } from "../start.mjs";

await start("Downloads for members", import.meta.dirname, {
  "/": "sign in as tern with the password north hide",
  "/downloads/report": "saved under another name",
});
