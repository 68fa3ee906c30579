// Answers from memory: the build's own files are in this script, so nothing is lost when the browser ends it for a while.

import { files, modified } from "virtual:files";
import { memorySource, openCheckedSite, webHandler } from "epistyle/browser";
import config from "../site.js";

const bytes = (base64) => Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0));
const tree = Object.fromEntries(Object.entries(files).map(([path, content]) => [path, bytes(content)]));
const site = openCheckedSite(config(memorySource(tree, { modified: new Date(modified) })));
const answer = webHandler(site, { mayPass: false });

addEventListener("install", () => skipWaiting());
addEventListener("activate", (event) => event.waitUntil(clients.claim()));
addEventListener("fetch", (event) => {
  const { origin, pathname } = new URL(event.request.url);
  // An API is asked over the network.
  if (origin === location.origin && !pathname.startsWith("/api/")) event.respondWith(answer(event.request));
});
