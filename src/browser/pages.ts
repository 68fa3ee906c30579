import { PAGE_COMPILERS } from "../config/page-compilers.js";
import type { SitePart } from "../site/open-checked.js";

/** The rules that read pages, `protect` and `preloads`, for `openCheckedSite`. */
export const pages: SitePart = { compilers: PAGE_COMPILERS };
