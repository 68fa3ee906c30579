import { start } from "../start.mjs";

await start("The fieldbook", import.meta.dirname, {
  "/": "the application; its picture in the best format",
  "/birds/curlew": "a deep link, with a part that is loaded when it is needed",
  "/api/sightings": "the API",
  "/assets/none.js": "a bundle that is not there: the page of your own, with 404",
});
