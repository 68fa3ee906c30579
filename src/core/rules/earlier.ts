import type { FileSource } from "../source.js";
import { isFingerprinted } from "./fingerprint.js";

/** The releases before the one that a mount serves. */
export interface EarlierReleases {
  /** Their sources as they were a moment ago, newest first. Never rejects; the one that is served may be among them. */
  list(): readonly FileSource[] | Promise<readonly FileSource[]>;
  /** The same as they are now; left out where they never change. */
  listNow?(): Promise<readonly FileSource[]>;
}

/**
 * True for a file that an earlier release may still answer for: its name stands for one content. A page's does not, whatever it is
 * called: an old page names files that are gone, too.
 */
export function mayBeOfEarlier(path: string): boolean {
  return !/\.x?html?$/i.test(path) && isFingerprinted(path);
}
