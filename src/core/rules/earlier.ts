import type { FileSource } from "../source.js";

/** The releases before the one that a mount serves. */
export interface EarlierReleases {
  /** Their sources as they were a moment ago, newest first. Never rejects; the one that is served may be among them. */
  list(): readonly FileSource[] | Promise<readonly FileSource[]>;
  /** The same as they are now; left out where they never change. */
  listNow?(): Promise<readonly FileSource[]>;
  /** True for a path that they answer whatever its name is. */
  readonly answers?: (path: string) => boolean;
}
