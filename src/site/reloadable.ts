import { followKeeper } from "./keeper.js";
import type { Site, SiteFile, SiteFileOptions } from "./site.js";

/** A site that can be opened again while it answers. */
export interface ReloadableSite extends Site {
  /**
   * Opens the site again, and answers from the new one as soon as it is ready; answers in progress finish from the one before.
   * Rejects with what was wrong when it cannot be opened: then nothing has changed. Of several at a time the last one counts.
   */
  reload(): Promise<void>;
}

/**
 * Opens a site that can be opened again: `open` is called now, and again with each `reload`. Rejects with what `open` rejects with.
 *
 * ```js
 * const site = await openReloadable(async () => openSite(await loadConfigFile("epistyle.config.yaml")));
 * process.on("SIGHUP", () => site.reload().catch(console.error));
 * ```
 */
export async function openReloadable(open: () => Promise<Site>): Promise<ReloadableSite> {
  if (typeof open !== "function")
    throw new TypeError("openReloadable: found no function; write openReloadable(() => openSite({ … })).");
  return reloadable(await open(), open);
}

/** The same for a site that is open already. */
export function reloadable(first: Site, open: () => Promise<Site>): ReloadableSite {
  const { site, use } = exchangeable(first);
  let turn = 0;
  let inForce = 0;
  return Object.assign(site, {
    async reload() {
      const mine = ++turn;
      const next = await open();
      // A later one that is open already stays.
      if (mine < inForce) return;
      inForce = mine;
      use(next);
    },
  });
}

/** A site that answers as another one does, until it is told to answer as a third. */
export function exchangeable(first: Site): { readonly site: Site; use(next: Site): void } {
  let current = first;
  const site: Site = {
    get mounts() {
      return current.mounts;
    },
    get warnings() {
      return current.warnings;
    },
    get memory() {
      return current.memory;
    },
    get moved() {
      return current.moved;
    },
    respond: (request) => current.respond(request),
    respondFailed: (...failed) => current.respondFailed(...failed),
    file: (path, options) => followFile(() => current, path, options),
    explain: (request, options) => current.explain(request, options),
    files: () => current.files(),
  };
  followKeeper(site, () => current);
  return {
    site,
    use(next) {
      current = next;
    },
  };
}

// One file of whichever site is in force: made again when that is another one.
function followFile(current: () => Site, path: string, options: SiteFileOptions | undefined): SiteFile {
  let of = current();
  let file = of.file(path, options);
  const now = (): SiteFile => {
    if (of !== current()) {
      of = current();
      file = of.file(path, options);
    }
    return file;
  };
  return {
    get memory() {
      return now().memory;
    },
    respond: (request) => now().respond(request),
    respondFailed: (...failed) => now().respondFailed(...failed),
  };
}
