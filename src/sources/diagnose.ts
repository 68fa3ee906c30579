import { constants } from "node:fs";
import { access, lstat, readlink, stat } from "node:fs/promises";
import { join } from "node:path";

/** Why a path of a folder cannot be had, in words for the developer; undefined when nothing is in the way. */
export async function diagnosePath(root: string, path: string): Promise<string | undefined> {
  const segments = path === "" ? [] : path.split("/");
  for (let depth = 0; depth <= segments.length; depth++) {
    const part = segments.slice(0, depth).join("/");
    const last = depth === segments.length;
    const full = join(root, part);
    const shown = part === "" ? "the folder itself" : part;
    try {
      const link = await lstat(full);
      if (link.isSymbolicLink()) {
        const target = await readlink(full);
        const there = await stat(full).catch(() => undefined);
        if (there === undefined) return `${shown} is a symbolic link to ${target}, which is not there`;
        if (last) return `${shown} is a symbolic link to ${target}`;
      }
      const wanted = last ? constants.R_OK : constants.X_OK;
      const denied = await access(full, wanted).then(
        () => false,
        () => true,
      );
      if (denied) {
        const { mode, uid, gid } = await stat(full);
        const right = last ? "read" : "execute";
        return `${shown}: no ${right} permission for this process (${describeProcess()}); mode ${formatMode(mode)}, owner ${uid}:${gid}`;
      }
    } catch (error) {
      const code = (error as NodeJS.ErrnoException).code;
      if (code === "ENOENT" && !last) return `${shown} does not exist`;
      return undefined;
    }
  }
  return undefined;
}

function describeProcess(): string {
  return process.getuid === undefined ? `process ${process.pid}` : `uid ${process.getuid()}`;
}

function formatMode(mode: number): string {
  return (mode & 0o7777).toString(8).padStart(3, "0");
}
