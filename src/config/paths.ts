/** Paths of the configuration, as the core keeps them. */

/** A path of the configuration as the core keeps it: no slash at either end. */
export function trimSlashes(path: string): string {
  return path.replace(/^\.?\/+|\/+$/g, "");
}

/** True when a path is an outer one or lies below it. */
export const isWithin = (path: string, outer: string): boolean =>
  outer === "" || path === outer || path.startsWith(`${outer}/`);
