import { walkMount } from "../core/resolve/walk.js";
import type { Mount } from "../core/rules/mount.js";

/** How many names are looked at: in a larger folder nothing is said. */
const NAMES_AT_MOST = 5000;

/** Those of the wanted that no file of an area is, of a mount that can be looked over; none where it cannot. */
export async function findNowhere<Wanted>(
  mount: Mount,
  area: string,
  wanted: readonly Wanted[],
  isIt: (name: string, wanted: Wanted) => boolean,
): Promise<readonly Wanted[]> {
  const missing = new Set(wanted);
  let [seen, files] = [0, 0];
  for await (const { path, kind } of walkMount(mount, { sizes: false, atMost: NAMES_AT_MOST + 1 })) {
    if (missing.size === 0 || ++seen > NAMES_AT_MOST) return [];
    if (kind === "directory" || (area !== "" && !path.startsWith(`${area}/`))) continue;
    files++;
    const name = path.slice(path.lastIndexOf("/") + 1);
    for (const one of missing) if (isIt(name, one)) missing.delete(one);
  }
  return files === 0 ? [] : [...missing];
}
