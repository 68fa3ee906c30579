import type { BuiltInPages } from "./answer/built-in-page.js";
import type { answerListing } from "./answer/listing-answer.js";
import type { KnownDirectories } from "./listing/directory.js";
import type { Pause } from "./listing/order.js";
import type { Memory } from "./memory/memory.js";
import type { Compressor } from "./represent/coding.js";
import type { KnownFiles } from "./represent/known-files.js";
import type { Mount } from "./rules/mount.js";
import type { MovedAddresses } from "./rules/moved.js";
import type { PrefixTree } from "./rules/prefix-tree.js";
import type { Rules } from "./rules/rules.js";

/**
 * All that the core remembers between requests. Sources and adapters open stores of their own in `memory`: where paths lie,
 * codings that were made, buffers to read into.
 */
export interface SiteMemory {
  readonly memory: Memory;
  readonly files: KnownFiles;
  readonly directories: KnownDirectories;
  readonly pages: BuiltInPages;
}

/** Everything one configuration serves, ready to answer. */
export interface CompiledSite {
  /** In the order of the configuration. */
  readonly mounts: PrefixTree<Mount>;
  /** The rules of what no mount covers: what is said for the whole site. */
  readonly outside: Rules;
  /** What is answered for addresses where no file is any more. */
  readonly moved: MovedAddresses;
  readonly remembered: SiteMemory;
  /** Answers a directory with its listing. A part of its own, because many sites in browsers list nothing. */
  readonly answerListing: typeof answerListing;
  /** Makes codings on the fly; undefined where none can be made. */
  readonly compressor: Compressor | undefined;
  /** Lets other requests have their turn in long work. */
  readonly pause: Pause;
  /** The clock, in milliseconds since the epoch. */
  readonly now: () => number;
}

/** Opens the stores of the core. */
export function openSiteMemory(memory: Memory): SiteMemory {
  return {
    memory,
    files: memory.open({
      name: "descriptions of files",
      bound: 16_384,
      unit: "entries",
      proof: "the source returns the same metadata object while the file is unchanged",
    }),
    directories: memory.open({
      name: "names of listed directories",
      bound: 200_000,
      unit: "entries",
      proof: "the directory's own inode and times, asked for at each listing",
    }),
    pages: memory.open({
      name: "built-in error pages",
      bound: 64,
      unit: "entries",
      proof: "they depend only on status and form",
    }),
  };
}
