/** Joins two paths without slashes at their ends; "" is the outermost folder. */
export const joinPath = (outer: string, inner: string): string =>
  outer === "" ? inner : inner === "" ? outer : `${outer}/${inner}`;

/** A path inside a mount as one of the site. */
export const sitePath = (mount: { readonly at: string }, path: string): string => joinPath(mount.at, path);
