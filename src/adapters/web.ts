import { checkOptions, checkSite } from "../site/arguments.js";
import type { Site, SiteFileOptions } from "../site/site.js";
import { makeWebHandler, type WebHandler, type WebHandlerOptions } from "./web-handler.js";

export type { WebHandler, WebHandlerOptions } from "./web-handler.js";

const OPTIONS = ["mayPass", "stalledAfterSeconds"];

/**
 * Makes a Fetch handler: a Request in, a Response out, or undefined if the site does not answer. A body is read as
 * its consumer asks for it; cancelling it, aborting the request, or asking for nothing for too long closes the file. Rejects with the signal's reason when the
 * request was aborted before its answer.
 */
export function webHandler(site: Site, options: WebHandlerOptions = {}): WebHandler {
  checkSite("webHandler", site);
  checkOptions("webHandler", options, OPTIONS);
  return makeWebHandler(site, options);
}

/** Makes a Fetch handler that answers with one file of the site, whatever the request's address is. */
export function webFileHandler(
  site: Site,
  path: string,
  options: WebHandlerOptions & SiteFileOptions = {},
): WebHandler {
  checkSite("webFileHandler", site);
  checkOptions("webFileHandler", options, [...OPTIONS, "saveAs"]);
  return makeWebHandler(site.file(path, options), options);
}
