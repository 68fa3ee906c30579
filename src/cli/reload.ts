import { unwatchFile, watchFile } from "node:fs";
import { resolve } from "node:path";
import { loadConfigFile } from "../adapters/node.js";
import { followKeeper } from "../site/keeper.js";
import { openSite } from "../site/open.js";
import type { Site } from "../site/site.js";

/** How often the configuration file's time is looked at, in milliseconds. */
const INTERVAL_MS = 300;

export interface ReloadingSite {
  /** Answers as the newest configuration says that could be opened. */
  readonly site: Site;
  close(): void;
}

/**
 * Opens the site of a configuration file, and opens it anew when the file changes. A configuration that is wrong changes
 * nothing: the one before stays. `tell` is told of either, in words.
 */
export function reloadOnChange(
  first: Site,
  file: string,
  tell: (text: string, site?: Site) => void,
): ReloadingSite {
  const full = resolve(file);
  let current = first;
  let turn = 0;
  const reload = async (): Promise<void> => {
    const mine = ++turn;
    try {
      const next = await openSite(await loadConfigFile(full));
      // A later change overtakes this one.
      if (mine !== turn) return;
      current = next;
      tell(`${file} has changed: the new configuration is in force.`, next);
    } catch (error) {
      if (mine === turn)
        tell(
          `${file} has changed and cannot be used; the configuration before it stays in force.\n${(error as Error).message}`,
        );
    }
  };
  watchFile(full, { interval: INTERVAL_MS, persistent: false }, () => void reload());
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
    respond: (request) => current.respond(request),
    respondFailed: (request, cause) => current.respondFailed(request, cause),
    file: (path, options) => ({
      memory: current.memory,
      respond: (request) => current.file(path, options).respond(request),
      respondFailed: (request, cause) => current.respondFailed(request, cause),
    }),
    explain: (request, options) => current.explain(request, options),
    files: () => current.files(),
  };
  followKeeper(site, () => current);
  return { site, close: () => unwatchFile(full) };
}
