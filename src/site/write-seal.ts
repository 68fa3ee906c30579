import type { SiteConfig } from "../config/config-types.js";
import type { SiteDefinition } from "../config/define.js";
import { checkPath } from "../config/found.js";
import { SealedFolder } from "../sources/sealed/sealed-folder.js";
import { compileSite } from "./compile-site.js";
import { saveSeal } from "./seal.js";

/** What was sealed. */
export interface WrittenSeal {
  readonly files: number;
  /** Bytes of all files together. */
  readonly bytes: number;
  /** What was left out, and the warnings about the site: a sentence each. */
  readonly warnings: readonly string[];
}

/**
 * Seals the folders of a site, and writes the seal to a file: at build, for servers that start with it. Rejects with a SiteError
 * if the site cannot be opened, or the file cannot be written.
 */
export async function writeSeal(definition: SiteDefinition | SiteConfig, out: string): Promise<WrittenSeal> {
  checkPath("writeSeal", out, 'writeSeal(config, "seal.jsonl")');
  const { compiled, warnings: told, file } = await compileSite(definition, { seal: true, pieces: true });
  const warnings = told.map(({ text }) => (file === undefined ? text : `${file}: ${text}`));
  const sealed = compiled.mounts.values().filter(({ source }) => source instanceof SealedFolder);
  return { ...(await saveSeal(sealed, out)), warnings };
}
