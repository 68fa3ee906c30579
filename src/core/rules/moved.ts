import { formatPath, formatQuery, type Target } from "../request/target.js";
import { PrefixTree } from "./prefix-tree.js";

/** Where an old address leads: a path of the site, with the query and fragment that are written behind it, or another site. */
export type Destination =
  | { readonly kind: "here"; readonly path: string; readonly slash: boolean; readonly rest: string }
  | { readonly kind: "elsewhere"; readonly url: string };

/** One old address, or a folder with everything below it. */
interface OldAddress {
  /** As the configuration names it: `moved["/notes/"]`. */
  readonly label: string;
  /** Decoded, without slashes at the ends. */
  readonly from: string;
  readonly folder: boolean;
}

export interface MovedRule extends OldAddress {
  readonly to: Destination;
  readonly temporary: boolean;
  readonly keepsQuery: boolean;
}

export type AddressRule = (OldAddress & { readonly to?: undefined }) | MovedRule;

/** An old address on its way to the new one. */
export interface Found {
  readonly rule: AddressRule;
  /** What lies below the folder of the rule; `""` for the address itself. */
  readonly below: string;
}

/** The addresses that moved or are gone. They count where no file answers. */
export class MovedAddresses {
  readonly rules: readonly AddressRule[];
  readonly #exact = new Map<string, AddressRule>();
  readonly #folders = new PrefixTree<AddressRule>();

  constructor(rules: readonly AddressRule[]) {
    this.rules = rules;
    for (const rule of rules) {
      if (rule.folder) this.#folders.set(rule.from, rule);
      else this.#exact.set(rule.from, rule);
    }
  }

  /** The rule for a path of the site: that of the address itself before that of a folder, and the innermost of those. */
  find(path: string, directoryForm: boolean): Found | undefined {
    const exact = directoryForm ? undefined : this.#exact.get(path);
    if (exact !== undefined) return { rule: exact, below: "" };
    const match = this.#folders.find(path);
    if (match === undefined) return undefined;
    const { value: rule, length } = match;
    // A folder that moved into itself is not moved again.
    if (rule.to?.kind === "here" && rule.to.path.length > rule.from.length && isBelow(path, rule.to.path))
      return undefined;
    return { rule, below: path.slice(length === 0 ? 0 : length + 1) };
  }
}

const isBelow = (path: string, folder: string): boolean => path === folder || path.startsWith(`${folder}/`);

/** A path of the site as an escaped address. */
export function formatAddress(path: string, slash: boolean): string {
  return `/${formatPath(path)}${slash && path !== "" ? "/" : ""}`;
}

/** The path of the site that an old address leads to; undefined where it leads to another site. */
export function pathOf(to: Destination, below: string): string | undefined {
  if (to.kind === "elsewhere") return undefined;
  return to.path === "" || below === "" ? to.path + below : `${to.path}/${below}`;
}

/**
 * The new address, as a redirect says it. One of the site is relative to the old one (RFC 3986 §4.2), so that it stays on the site, also
 * under a prefix that a host or a proxy stripped. Of what the client asked for, only names below the folder and the query go into it, escaped.
 */
export function formatNewAddress(
  { to, keepsQuery }: MovedRule,
  below: string,
  { path, target }: { readonly path: string; readonly target: Target },
): string {
  const tail = below === "" ? "" : `${formatPath(below)}${target.directoryForm ? "/" : ""}`;
  const query = keepsQuery ? formatQuery(target.query) : "";
  if (to.kind === "elsewhere") return withQuery(to.url + tail, query);
  const slash = below === "" ? to.slash : target.directoryForm;
  const depth = path === "" ? 0 : path.split("/").length - (target.directoryForm ? 0 : 1);
  const up = depth === 0 ? "./" : "../".repeat(depth);
  const full = pathOf(to, below)!;
  return withQuery(`${up}${formatPath(full)}${slash && full !== "" ? "/" : ""}${to.rest}`, query);
}

// The query stands before the fragment (RFC 3986 §3).
function withQuery(address: string, query: string): string {
  if (query === "") return address;
  const hash = address.indexOf("#");
  return hash < 0 ? address + query : address.slice(0, hash) + query + address.slice(hash);
}
