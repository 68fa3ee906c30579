import { randomUUID } from "node:crypto";
import { chmod, chown, realpath, rename, rm, stat, writeFile } from "node:fs/promises";

/**
 * Writes a file whole or not at all: a new file takes the place of an old one in one step, with its owner and permissions. A link stays
 * a link; what is no file, such as a pipe, is written to. Rejects with the error of the system.
 */
export async function writeWhole(path: string, text: string): Promise<void> {
  const target = await realpath(path).catch(() => path);
  const before = await stat(target).catch(() => undefined);
  if (before?.isFile() === false) {
    await writeFile(target, text);
    return;
  }
  const beside = `${target}.${randomUUID().slice(0, 8)}.new`;
  try {
    // Nobody else may read it before it has the permissions of the old one.
    await writeFile(beside, text, { flag: "wx", mode: before === undefined ? 0o666 : 0o600 });
    if (before !== undefined) {
      // Only some may give a file away: then it is whose process it is.
      await chown(beside, before.uid, before.gid).catch(() => {});
      await chmod(beside, before.mode & 0o7777);
    }
    await rename(beside, target);
  } catch (error) {
    await rm(beside, { force: true });
    throw error;
  }
}
