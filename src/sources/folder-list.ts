import type { BigIntStats, Dirent } from "node:fs";
import { lstat, opendir, stat } from "node:fs/promises";
import { join } from "node:path";
import type { EntryKind, EntryMetadata, SourceEntry } from "../core/source.js";
import { type LinkPolicy, locate } from "./links.js";

/** How many entries are read between two turns of the event loop. */
const AT_A_TIME = 1024;

/** The entries of a folder, read in portions so that a large one holds nobody up. Undefined when it cannot be read. */
export async function listFolder(root: string, path: string): Promise<readonly SourceEntry[] | undefined> {
  try {
    const folder = await opendir(join(root, path), { bufferSize: AT_A_TIME });
    const entries: SourceEntry[] = [];
    try {
      // The first read of a portion fetches all of it, off the main thread; the others take from memory what it fetched.
      for (let entry = await folder.read(); entry !== null; entry = await folder.read()) {
        entries.push({ name: entry.name, kind: kindOf(entry) });
        for (let left = AT_A_TIME - 1; left > 0; left--) {
          const next = folder.readSync();
          if (next === null) return entries;
          entries.push({ name: next.name, kind: kindOf(next) });
        }
      }
      return entries;
    } finally {
      await folder.close();
    }
  } catch {
    return undefined;
  }
}

/** What an entry is and holds, by name alone: nothing is opened. Undefined when it is gone or leads where it may not. */
export async function statEntry(
  root: string,
  path: string,
  links: LinkPolicy,
): Promise<EntryMetadata | undefined> {
  const full = join(root, path);
  try {
    const own = await lstat(full, { bigint: true });
    if (!own.isSymbolicLink()) return toMetadata(own);
    const target = await stat(full, { bigint: true });
    const location = await locate(root, { path, full, stats: target }, links);
    if (location === undefined || location.refused !== undefined) return undefined;
    return { ...toMetadata(target), realPath: location.realPath };
  } catch {
    return undefined;
  }
}

function toMetadata(stats: BigIntStats): EntryMetadata {
  const kind = mayRead(stats) ? kindOf(stats)! : "unreadable";
  return { kind, sizeBytes: Number(stats.size), modifiedNs: stats.mtimeNs };
}

// What the mode bits let this process do: reading a file, or reaching what is in a folder (POSIX file access permissions).
function mayRead(stats: BigIntStats): boolean {
  if (process.geteuid === undefined || process.geteuid() === 0) return true;
  const wanted = stats.isDirectory() ? 0o5n : 0o4n;
  const isOwner = stats.uid === BigInt(process.geteuid());
  const inGroup = [process.getegid!(), ...process.getgroups!()].some((group) => BigInt(group) === stats.gid);
  const shift = isOwner ? 6n : inGroup ? 3n : 0n;
  return ((stats.mode >> shift) & wanted) === wanted;
}

function kindOf(entry: Dirent | BigIntStats): EntryKind | undefined {
  if (entry.isDirectory()) return "directory";
  if (entry.isFile()) return "file";
  return entry.isSymbolicLink() ? undefined : "special";
}
