import { randomBytes } from "node:crypto";
import { readFile, writeFile } from "node:fs/promises";
import { resolve } from "node:path";
import { shorten } from "../../config/config-file.js";
import { SiteError } from "../../config/site-error.js";

export const makeToken = (): string => randomBytes(18).toString("base64url");

/**
 * Reads the token from a file. If the file does not exist, creates it with a new token, readable only by its owner. Rejects with a SiteError
 * if the token is too short or has characters that do not belong in an address, and if the file cannot be read or written.
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
