import { randomBytes } from "node:crypto";
import { readFile, writeFile } from "node:fs/promises";
import { resolve } from "node:path";
import { shorten } from "../../config/config-file.js";
import { SiteError } from "../../config/site-error.js";

export const makeToken = (): string => randomBytes(18).toString("base64url");

/**
 * The token of a file: it makes one that only its owner may read where there is none. Rejects with a SiteError for one that is too short or has
 * other characters than an address may have, and for a file that cannot be read or written.
 */
export async function readToken(path: string): Promise<string> {
  const full = resolve(path);
  const file = shorten(full);
  try {
    const token = (await readFile(full, "utf8")).trim();
    if (/^[\w-]{16,100}$/.test(token)) return token;
    throw new SiteError([
      `${file}: it has no token of 16 to 100 letters, digits, hyphens and underscores; remove the file, and the lab writes a new one.`,
    ]);
  } catch (error) {
    if (error instanceof SiteError) throw error;
    const { code } = error as NodeJS.ErrnoException;
    if (code !== "ENOENT")
      throw new SiteError([`${file}: it cannot be read (${code}); check its permissions.`]);
  }
  const token = makeToken();
  await writeFile(full, `${token}\n`, { mode: 0o600, flag: "wx" }).catch((error: NodeJS.ErrnoException) => {
    throw new SiteError([`${file}: it cannot be written (${error.code}); name another file.`]);
  });
  return token;
}
