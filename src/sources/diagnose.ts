import { constants } from "node:fs";
import { lstat, open, readlink, stat } from "node:fs/promises";
import { join } from "node:path";
import type { Diagnosis } from "../core/source.js";

/** Why a path of a folder cannot be opened; undefined when nothing is in the way. */
export async function diagnosePath(root: string, path: string): Promise<Diagnosis | undefined> {
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
        if (there === undefined)
          return { text: `${shown} is a symbolic link to ${target}, which does not exist` };
        if (last) return { text: `${shown} is a symbolic link to ${target}` };
      }
      const denied = await (last ? checkReadable(full) : checkSearchable(full)).then(
        () => false,
        (error: NodeJS.ErrnoException) => error.code === "EACCES" || error.code === "EPERM",
      );
      if (denied) {
        const { mode, uid, gid } = await stat(full);
        const right = last ? "read" : "execute";
        const text = `${shown}: no ${right} permission for this process (${describeProcess()}); mode ${formatMode(mode)}, owner ${uid}:${gid}`;
        return { text, denied: { path: part, right } };
      }
    } catch (error) {
      const code = (error as NodeJS.ErrnoException).code;
      if (code === "ENOENT" && !last) return { text: `${shown} does not exist` };
      return undefined;
    }
  }
  return undefined;
}

// Permissions are asked for by doing: a check by name would be made for another user id than the one that opens files.

/** Rejects when this process cannot read a file, or list a folder. */
async function checkReadable(path: string): Promise<void> {
  const handle = await open(path, constants.O_RDONLY | (constants.O_NONBLOCK ?? 0));
  await handle.close();
}

/** Rejects when this process cannot reach what is in a folder. */
export async function checkSearchable(path: string): Promise<void> {
  await stat(`${path}/.`).catch((error: NodeJS.ErrnoException) => {
    if (error.code === "EACCES" || error.code === "EPERM") throw error;
  });
}

export function describeProcess(): string {
  return process.getuid === undefined ? `process ${process.pid}` : `uid ${process.getuid()}`;
}

function formatMode(mode: number): string {
  return (mode & 0o7777).toString(8).padStart(3, "0");
}
