import type { MountConfig, SiteConfig } from "../config/config-types.js";
import { trimSlashes } from "../config/paths.js";
import type { Memory } from "../core/memory/memory.js";
import { KnownNames } from "../reading/builds/known-names.js";
import { type NameList, namesOf, readNameList } from "../reading/builds/lists.js";
import { emitWarning } from "./platform.js";

/** What a mount knows of its files' names, or a sentence that says what to fix. */
export async function openNames(
  { at = "/", fingerprints }: MountConfig,
  where: string,
  base: SiteConfig["base"],
  memory: Memory,
): Promise<KnownNames | string> {
  const options = { at: trimSlashes(at), memory, tell: emitWarning };
  if (typeof fingerprints !== "string")
    return new KnownNames({ ...options, said: fingerprints && namesOf(fingerprints) });
  const list = await readList(fingerprints, `${where}.fingerprints`, base);
  return typeof list === "string" ? list : new KnownNames({ ...options, list });
}

async function readList(file: string, where: string, base: SiteConfig["base"]): Promise<NameList | string> {
  const { readTextFile } = await import("../sources/read-text.js");
  const read = await readTextFile(file, where, base, '"assets/index-5f3a91bc.js"');
  if (!read.ok) return read.problem;
  const list = readNameList(file, read.text);
  return "problem" in list
    ? `${where}: found ${JSON.stringify(file)}, which cannot be read: ${list.problem}; write a path a line, or name a manifest of Vite.`
    : list;
}
