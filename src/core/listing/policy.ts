import type { ListingRules } from "../rules/listing.js";
import { LISTING_SCRIPT_DIGEST, LISTING_STYLE_DIGEST } from "./style.js";

/** The policy of a listing's page: nothing runs but the filter, nothing is styled but by the sheet, each by its digest; the icon is in the page. */
export function formatPolicy({ nameFilter, styleSheet, icon }: ListingRules): string {
  const style = `style-src 'sha256-${LISTING_STYLE_DIGEST}'${styleSheet === undefined ? "" : " 'self'"}`;
  const script = nameFilter ? `; script-src 'sha256-${LISTING_SCRIPT_DIGEST}'` : "";
  const own = styleSheet === undefined && icon === undefined ? "" : " 'self'";
  const fonts = styleSheet === undefined ? "" : "; font-src 'self'";
  const form = nameFilter ? "'self'" : "'none'";
  return `default-src 'none'; ${style}${script}${fonts}; img-src data:${own}; frame-ancestors 'none'; base-uri 'none'; form-action ${form}`;
}
