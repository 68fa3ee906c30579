import type { SiteConfig } from "../../config/config-types.js";

/** Rules whose effect on a file is known from its path alone. */
const BY_PATH: ReadonlySet<string> = new Set([
  "withheld",
  "notListed",
  "caching",
  "headers",
  "downloads",
  "mediaTypes",
  "charset",
  "crossOrigin",
  "noVarySearch",
  "whenMissing",
  // What no file answers: those addresses are asked about in any case.
  "moved",
  "gone",
  "errorPages",
]);

/** Rules whose effect goes by a file's size besides. */
const BY_SIZE: ReadonlySet<string> = new Set(["digests"]);

/** How far a change reaches. */
export interface Reach {
  /** Nowhere, to the files that other rules cover now, in the same way to those of one size, or anywhere. */
  readonly by: "nothing" | "path" | "path and size" | "anything";
  /** Both sites offer the same paths. */
  readonly offersAlike: boolean;
}

export const ANYWHERE: Reach = { by: "anything", offersAlike: false };

/** How far the difference between two configurations reaches. */
export function findReach(here: SiteConfig, there: SiteConfig): Reach {
  const [a, b] = [layersOf(here), layersOf(there)];
  if (a === undefined || b === undefined || a.length !== b.length) return ANYWHERE;
  const changed = new Set<string>();
  for (const [index, layer] of a.entries()) {
    const other = b[index]!;
    if (layer.name !== other.name) return ANYWHERE;
    for (const key of new Set([...Object.keys(layer.keys), ...Object.keys(other.keys)]))
      if (JSON.stringify(layer.keys[key]) !== JSON.stringify(other.keys[key])) changed.add(key);
  }
  const keys = [...changed];
  if (keys.some((key) => !BY_PATH.has(key) && !BY_SIZE.has(key))) return ANYWHERE;
  const by = keys.some((key) => BY_SIZE.has(key)) ? "path and size" : keys.length > 0 ? "path" : "nothing";
  return { by, offersAlike: !changed.has("withheld") };
}

interface Layer {
  readonly name: string;
  readonly keys: Readonly<Record<string, unknown>>;
}

// Each place that says rules, in order. A configuration in code may hold what cannot be compared.
function layersOf({ mounts, base, ...site }: SiteConfig): Layer[] | undefined {
  const layers: Layer[] = [{ name: `site ${base}`, keys: site }];
  for (const { areas = {}, source, at = "/", folder, ...mount } of mounts) {
    if (source !== undefined || typeof mount.listing === "object") return undefined;
    layers.push({ name: `mount ${at} of ${folder?.replace(/^\.\/|\/+$/g, "")}`, keys: mount });
    for (const [path, keys] of Object.entries(areas))
      layers.push({ name: `area ${path}`, keys: { ...keys } });
  }
  return layers;
}
