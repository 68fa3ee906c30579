import type { FileSource } from "../source.js";
import type { CachingRule } from "./file-rules.js";
import type { Names } from "./names.js";

/** A document of a mount: its address in the site, and where it is in the mount. */
export interface LinkingDocument {
  readonly address: string;
  readonly path: string;
  readonly mount: { readonly source: FileSource; readonly names?: Names };
  readonly rules: { readonly caching: readonly CachingRule[] };
}

/** How it is found out what a document needs at once. */
export interface Preloads {
  /** How much of a document is read for it, in bytes. */
  readonly readUpTo: number;
  /** Values of Link (RFC 8288), from a document's first bytes. */
  readonly read: (bytes: Uint8Array) => Promise<readonly string[]>;
  /** Those of the values whose files stay fresh in a browser's cache. */
  readonly findFresh: (links: readonly string[], document: LinkingDocument) => Promise<readonly string[]>;
}
