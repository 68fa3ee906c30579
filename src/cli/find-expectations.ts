import { readdir, stat } from "node:fs/promises";
import { join } from "node:path";
import { SiteError } from "../config/site-error.js";
import { PACK_NAMES } from "../testing/packs/names.js";

const NAME = /^(?:.+\.)?expectations\.(?:ya?ml|json)$/;

/**
 * What a check is asked to run: a folder stands for the expectations files in it, and no word at all for those of the working
 * directory. Rejects with a SiteError where there are none.
 */
export async function findExpectations(words: readonly string[]): Promise<string[]> {
  if (words.length === 0) {
    const found = await filesIn(".");
    if (found.length > 0) return found;
    throw new SiteError([
      "Found nothing to check: no expectations.yaml and no *.expectations.yaml is here; name a file or a pack, or write one with epistyle draft.",
    ]);
  }
  const all: string[] = [];
  for (const word of words) {
    const isPack = (PACK_NAMES as readonly string[]).includes(word);
    if (isPack || !(await isFolder(word))) all.push(word);
    else {
      const found = await filesIn(word);
      if (found.length === 0)
        throw new SiteError([
          `${word}: no expectations.yaml and no *.expectations.yaml is in this folder; name a file or a pack.`,
        ]);
      all.push(...found);
    }
  }
  return all;
}

async function filesIn(folder: string): Promise<string[]> {
  const names = await readdir(folder);
  return names
    .filter((name) => NAME.test(name))
    .sort()
    .map((name) => join(folder, name));
}

async function isFolder(path: string): Promise<boolean> {
  return stat(path).then(
    (found) => found.isDirectory(),
    () => false,
  );
}
