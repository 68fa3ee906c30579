import { isWithin } from "../config/paths.js";
import { formatPath } from "../core/request/target.js";
import type { Mount } from "../core/rules/mount.js";
import { joinPath } from "../core/text/path.js";

/** The prefixes, from the site's root and ending with a slash, under which an app shell of a mount answers deep links. */
export function listAppShells({ at, areas }: Mount): string[] {
  const all = areas.values();
  // An area that only inherits an enclosing one's shell is no application of its own.
  const isInherited = (area: string, file: string): boolean =>
    all.some((other) => other.area !== area && other.appShell?.file === file && isWithin(area, other.area));
  return all
    .filter(({ area, appShell }) => appShell !== undefined && !isInherited(area, appShell.file))
    .map(({ area }) => {
      const path = formatPath(joinPath(at, area));
      return path === "" ? "/" : `/${path}/`;
    });
}
