import { type Mount, withheldIn } from "../rules/mount.js";
import type { OpenedDirectory } from "../source.js";
import { joinPath } from "../text/path.js";

/** How often a directory is opened again that was moved while it was read. */
export const TRIES = 16;

/**
 * What `read` makes of a directory of a mount and of the path where it really lies: for walks, start checks and explanations.
 * Undefined where there is none, or where it is may not be shown, or when it was moved each time it was read.
 */
export async function readInPlace<Outcome>(
  mount: Mount,
  path: string,
  read: (directory: OpenedDirectory, real: string) => Promise<Outcome>,
  { seesWithheld = false } = {},
): Promise<Outcome | undefined> {
  for (let attempt = 1; attempt <= TRIES; attempt++) {
    const found = await mount.source.open(path);
    if (found.kind === "file") found.file.close();
    if (found.kind !== "directory") return undefined;
    const { directory, realPath = path } = found;
    try {
      if (!seesWithheld && withheldIn(mount, realPath) !== undefined) return undefined;
      const outcome = await read(directory, realPath);
      if (await directory.isInPlace()) return outcome;
    } finally {
      directory.close();
    }
  }
  return undefined;
}

/** The names in a directory of a mount, but for those that are withheld where they are; none where it cannot be read. */
export async function readNames(mount: Mount, path: string): Promise<readonly string[] | undefined> {
  return readInPlace(mount, path, async (directory, real) => {
    const entries = await directory.list();
    if ("kind" in entries) return undefined;
    return entries
      .map(({ name }) => name)
      .filter((name) => withheldIn(mount, joinPath(real, name)) === undefined);
  });
}
