import type { CachingRule } from "./file-rules.js";

/** How it is found out what a document needs at once. */
export interface Preloads {
  /** So much of a document is read for it, in bytes. */
  readonly readUpTo: number;
  /** Values of Link (RFC 8288), from a document's first bytes. */
  readonly read: (bytes: Uint8Array) => Promise<readonly string[]>;
  /** True for a value whose file stays fresh in a browser's cache: `at` is the mount's prefix, `path` that of the document in it. */
  readonly staysFresh: (link: string, at: string, path: string, caching: readonly CachingRule[]) => boolean;
}
