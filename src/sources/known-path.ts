import type { BigIntStats } from "node:fs";
import type { FileMetadata, Look } from "../core/source.js";
import type { ReadMemory } from "./folder-file.js";
import type { Location } from "./links.js";

/** What is known about a path: still true while the path opens the same unchanged inode, but for where it is. */
export interface KnownPath extends ReadMemory {
  /** In milliseconds since the epoch. */
  lastOpenedMs: number;
  readonly device: bigint;
  readonly inode: bigint;
  location: Location;
  /** When the location was last found out, in milliseconds since the epoch. */
  locatedMs: number;
  readonly isFile: boolean;
  readonly mode: bigint;
  readonly uid: bigint;
  readonly gid: bigint;
  /** How it is told that it is still what it was, once that was asked for. */
  look: Look | undefined;
  readonly metadata: FileMetadata & { readonly changedNs: bigint };
}

/** True when a path that was opened is the very inode that is known, and unchanged. */
export function isSame(
  entry: Pick<KnownPath, "device" | "inode" | "metadata">,
  stats: Pick<BigIntStats, "ino" | "dev" | "ctimeNs" | "mtimeNs" | "size">,
): boolean {
  return (
    entry.inode === stats.ino &&
    entry.device === stats.dev &&
    entry.metadata.changedNs === stats.ctimeNs &&
    entry.metadata.modifiedNs === stats.mtimeNs &&
    entry.metadata.sizeBytes === Number(stats.size)
  );
}
