import { start } from "../start.mjs";
import * as example from "./server.mjs";

await start("Downloads for members", example, {
  "/": "sign in, then the links lead somewhere",
  "/downloads/report": "saved under another name",
});
