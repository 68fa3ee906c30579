import type { ListingRules } from "../rules/listing.js";
import { LISTING_SCRIPT_DIGEST, LISTING_STYLE_DIGEST } from "./style.js";

/** The policy of a listing's page: nothing runs but the filter, and nothing is styled but by the sheet, each by its digest. */
export function formatPolicy({ nameFilter, styleSheet }: ListingRules): string {
  const style = `style-src 'sha256-${LISTING_STYLE_DIGEST}'${styleSheet === undefined ? "" : " 'self'"}`;
  const script = nameFilter ? `; script-src 'sha256-${LISTING_SCRIPT_DIGEST}'` : "";
  const rest = styleSheet === undefined ? "" : "; font-src 'self'; img-src 'self'";
  return `default-src 'none'; ${style}${script}${rest}; frame-ancestors 'none'; base-uri 'none'; form-action 'none'`;
}
