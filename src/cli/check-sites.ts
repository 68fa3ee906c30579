import { resolve } from "node:path";
import { loadConfigFile } from "../adapters/node.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { openSite } from "../site/open.js";
import type { Site } from "../site/site.js";
import { resolveFolder } from "../sources/earlier-folders.js";
import type { Sample } from "../testing/discover/sample.js";
import { usesEach } from "../testing/format/file-cases.js";
import type { Expectations } from "../testing/format/load.js";
import type { CheckRequest } from "./check-options.js";

/** What the targets of one run have in common: several files about one site open it and look it over once. */
export interface Shared {
  readonly looks: Map<string, Promise<Sample>>;
  readonly sites: Map<string, Promise<Opened>>;
}

export interface Opened {
  readonly site: Site;
  readonly watched: string[];
}

/** The site of a file: what the command line says, or the configuration that the file names. */
export async function openOwnSite(
  expectations: Expectations,
  request: CheckRequest,
  { sites }: Shared,
): Promise<Opened | undefined> {
  const { config, written } = expectations;
  const path = request.config ?? (request.folder === undefined ? config : undefined);
  if (path === undefined && request.folder === undefined) return undefined;
  // Over the network the files matter to `each` and to packs only; elsewhere they may not even be there.
  const needsFiles = (written.packs ?? []).length > 0 || usesEach(expectations);
  if (request.against !== undefined && !needsFiles) return undefined;
  const key = path === undefined ? "" : resolve(path);
  const opened =
    sites.get(key) ??
    (path === undefined
      ? openDefinition(defineSite({ base: process.cwd(), mounts: [{ folder: request.folder! }] }))
      : loadConfigFile(path).then((definition) => openDefinition(definition, resolve(path))));
  sites.set(key, opened);
  return opened;
}

export async function openDefinition(definition: SiteDefinition, file?: string): Promise<Opened> {
  const { config } = definition;
  const folders = config.mounts.flatMap(({ folder }) =>
    folder === undefined ? [] : (resolveFolder(folder, config.base) ?? []),
  );
  return {
    site: await openSite(definition),
    watched: [...(file === undefined ? [] : [resolve(file)]), ...folders],
  };
}
