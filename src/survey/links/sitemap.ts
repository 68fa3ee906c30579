import { extractSitemapLinks } from "../../reading/links.js";
import type { Reference } from "../../reading/pages/references.js";
import { ORIGIN, type Targets } from "./targets.js";

/**
 * The addresses in a sitemap, which names them with the host of the site: as addresses of this one. None where not one of them is here, since
 * then it is another site's, or lies in another place there.
 */
export function findSitemapLinks(xml: string, targets: Targets): Reference[] {
  const found: Reference[] = [];
  let isOurs = false;
  for (const address of extractSitemapLinks(xml)) {
    if (!URL.canParse(address)) continue;
    const { pathname, search } = new URL(address);
    isOurs ||= targets.isKnown(pathname) || targets.isFolder(pathname);
    found.push({
      url: ORIGIN + pathname + search,
      fragment: "",
      written: address,
      element: "a",
      width: undefined,
    });
  }
  return isOurs ? found : [];
}
