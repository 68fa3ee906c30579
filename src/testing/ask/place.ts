import { checkSite } from "../../site/arguments.js";
import type { Site } from "../../site/site.js";
import type { Asker } from "./ask.js";
import { askSite } from "./in-process.js";
import { askServer, type ServerOptions } from "./server.js";

/** Who answers for a site in this process, or for the server at an address. Throws a TypeError or a SiteError for neither. */
export function askPlace(
  call: string,
  place: Site | string,
  options: ServerOptions,
): { readonly asker: Asker; readonly site: Site | undefined } {
  if (typeof place === "string")
    return { asker: askServer(place, { ...options, where: "The address of a server" }), site: undefined };
  checkSite(call, place);
  return { asker: askSite(place), site: place };
}
