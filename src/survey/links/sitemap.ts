import type { Reference } from "../../reading/pages/references.js";
import { ORIGIN, type Targets } from "./targets.js";

/** So many addresses of a sitemap may stand in it (sitemaps.org protocol: 50,000). */
const AT_MOST = 50_000;

/**
 * The addresses in a sitemap, which names them with the host of the site: as addresses of this one. None where not one of them is here, since
 * then it is another site's, or lies in another place there.
 */
export function findSitemapLinks(xml: string, targets: Targets): Reference[] {
  const found: Reference[] = [];
  let isOurs = false;
  for (const [, written] of xml.matchAll(/<loc>([^<]{1,2048})<\/loc>/g)) {
    const address = written!.trim().replaceAll("&amp;", "&");
    if (found.length >= AT_MOST) break;
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
