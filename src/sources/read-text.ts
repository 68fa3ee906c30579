import { readFile } from "node:fs/promises";
import { isAbsolute, resolve } from "node:path";
import { toFolder } from "./open-folder.js";

/** Reads a text file that a configuration names; a sentence that says what to fix when it cannot be read. */
export async function readTextFile(
  path: string,
  where: string,
  base: string | URL | undefined,
  example: string,
): Promise<{ ok: true; text: string } | { ok: false; problem: string }> {
  const found = `${where}: found ${JSON.stringify(path)}`;
  const start = base === undefined ? undefined : toFolder(base);
  if (!isAbsolute(path) && start === undefined) {
    return {
      ok: false,
      problem: `${found}, a relative path, but it is unknown what it is relative to; write base: import.meta.url (in CommonJS, base: __dirname) beside mounts.`,
    };
  }
  try {
    return { ok: true, text: await readFile(resolve(start ?? "", path), "utf8") };
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const why = code === "ENOENT" ? "which does not exist" : `which cannot be read (${code})`;
    return { ok: false, problem: `${found}, ${why}; name a file of lines such as ${example}.` };
  }
}
