import { mkdir, readFile, stat } from "node:fs/promises";
import { dirname, join } from "node:path";
import { OWN_LISTS } from "../reading/builds/known-names.js";
import { writeWhole } from "../site/write-whole.js";

const HEAD =
  "# The names of this build that change with their content, as Epistyle reads them. Written by its plugin for Vite.\n";

/**
 * Writes down which names of a build have a fingerprint, in a folder of the build that no visitor gets. Those of an earlier build stay while
 * their files do: it may have been left in place.
 */
export async function writeNames(folder: string, names: Iterable<string>): Promise<void> {
  const file = join(folder, OWN_LISTS[0]);
  const all = new Set(names);
  const before = await readFile(file, "utf8").catch(() => "");
  for (const line of before.split("\n")) {
    if (line === "" || line.startsWith("#") || all.has(line)) continue;
    if (await isFile(join(folder, line))) all.add(line);
  }
  if (all.size === 0 && before === "") return;
  await mkdir(dirname(file), { recursive: true });
  await writeWhole(file, `${HEAD}${[...all].sort().join("\n")}\n`);
}

async function isFile(path: string): Promise<boolean> {
  const found = await stat(path).catch(() => undefined);
  return found?.isFile() === true;
}
