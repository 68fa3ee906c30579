import { resolve } from "node:path";
import { findConfigFile, loadConfigFile } from "../adapters/node.js";
import type { MountConfig } from "../config/config-types.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { SiteError } from "../config/site-error.js";

/** The configuration that a command's arguments mean: a folder's, a file's, or that of the one file in this folder. */
export async function chooseDefinition(
  folder: string | undefined,
  config: string | undefined,
  { kind, listing }: Pick<MountConfig, "kind" | "listing"> = {},
): Promise<SiteDefinition> {
  if (folder !== undefined && config !== undefined) {
    throw new SiteError([
      `Found both a folder (${folder}) and --config (${config}); a configuration names its own folders: leave one out.`,
    ]);
  }
  if (folder !== undefined) {
    return defineSite({ base: process.cwd(), mounts: [{ folder, kind, listing }] });
  }
  if (kind !== undefined || listing !== undefined) {
    throw new SiteError([
      "Found --kind or --listing without a folder; write them in the configuration, or name the folder.",
    ]);
  }
  const file = config ?? (await findConfigFile(process.cwd()));
  if (file === undefined) {
    throw new SiteError([
      "Found no folder to serve and no epistyle.config.yaml, .json, .js or .mjs here; name a folder, such as ./public.",
    ]);
  }
  return loadConfigFile(resolve(file));
}

/** The rules for files of a release store: of a configuration file, or of the one in this folder; undefined without any. */
export async function chooseRules(config: string | undefined): Promise<SiteDefinition | undefined> {
  const file = config ?? (await findConfigFile(process.cwd()));
  return file === undefined ? undefined : loadConfigFile(resolve(file));
}
