import type { ListingRenderer, ListingRules, Order } from "../../core/rules/listing.js";
import { innermost } from "../compiler.js";

/** How directories are listed, as written. */
interface Listing
  extends Partial<Record<"title" | "header" | "footer" | "styleSheet" | "icon", string | undefined>> {
  readonly order?: Order | undefined;
  readonly pageSize?: number | "all" | undefined;
  readonly nameFilter?: boolean | undefined;
  readonly render?: ListingRenderer | undefined;
}

type ListingValue = boolean | Listing;

/** More rows than any directory has. */
export const ALL = 1_000_000_000;

export const listingCompiler = innermost({
  default: false,
  compile(value: ListingValue): ListingRules | undefined {
    if (value === false) return undefined;
    const { order = "name", pageSize = 500, nameFilter = true, ...rest } = value === true ? {} : value;
    const { title, header, footer, styleSheet, icon, render } = rest;
    const rows = pageSize === "all" ? ALL : pageSize;
    return { order, pageSize: rows, nameFilter, title, header, footer, styleSheet, icon, render };
  },
});
