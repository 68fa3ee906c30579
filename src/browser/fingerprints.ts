import { KnownNames } from "../reading/builds/known-names.js";
import type { SitePart } from "../site/open-checked.js";

/** Rules for `fingerprinted` files, for `openCheckedSite`: knows the names that builds made. */
export const fingerprints: SitePart = { openNames: (options) => new KnownNames(options) };
