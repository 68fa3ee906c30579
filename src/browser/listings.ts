import { listingCompiler } from "../config/listing/compile.js";
import { answerListing } from "../core/answer/listing-answer.js";
import type { SitePart } from "../site/open-checked.js";

/** Listings of directories, for `openCheckedSite`. */
export const listings: SitePart = { compilers: { listing: listingCompiler }, answerListing };
