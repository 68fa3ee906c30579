import type { SiteMount } from "./site.js";

/**
 * A file as the configuration names it: the folder that is written there, and the path inside. `file` is its address from the
 * site's root, not escaped and without a slash in front, as answers have it.
 */
export function nameFile(mounts: readonly Pick<SiteMount, "at" | "source">[], file: string): string {
  const above = mounts.filter(({ at }) => at === "/" || `/${file}`.startsWith(`${at}/`));
  const mount = above.sort((a, b) => b.at.length - a.at.length)[0];
  if (mount === undefined) return file;
  const inside = mount.at === "/" ? file : file.slice(mount.at.length);
  return `${mount.source.replace(/\/+$/, "")}/${inside}`;
}
