import { createHash } from "node:crypto";
import type { Store } from "../core/memory/store.js";
import type { CodingKey, Compressor } from "../core/represent/coding.js";
import type { Coding } from "../core/rules/codings.js";
import { makeAlgorithms } from "./algorithms.js";

/** What an outcome costs besides its bytes: that there is none is kept too. */
const ENTRY_BYTES = 512;

// The platform compresses off the main thread. Quality: a page's worth of text in a few milliseconds.
const algorithms = makeAlgorithms({ br: 5, gzip: 6 });

/** Other versions of the platform's algorithms may give other bytes, so they have other tags. */
const VERSION = createHash("sha256")
  .update(`${process.versions.zlib} ${process.versions.brotli} ${process.versions.zstd ?? ""}`)
  .digest("base64url")
  .slice(0, 4);

type Outcome = Uint8Array | undefined;

/** What was made from a version of a file, by coding; undefined for a coding that does not make it smaller. */
interface Made {
  readonly version: object;
  readonly outcomes: ReadonlyMap<Coding, Outcome>;
}

/** What was made, by address: a version takes the place of the one before it. */
export type MadeCodings = Store<string, Made>;

/** How made codings are kept: in bytes, what was used longest ago goes first. */
export const MADE_CODINGS = {
  name: "codings made on the fly",
  bound: 64 * 1024 * 1024,
  unit: "bytes",
  proof: "the source returns the same metadata object while the file is unchanged",
} as const;

/** Makes a compressor that keeps what it makes in a store. */
export function makeCompressor(made: MadeCodings): Compressor {
  const underWay = new Map<object, Map<Coding, Promise<Outcome>>>();

  async function make(
    { address, version }: CodingKey,
    coding: Coding,
    read: () => Promise<Uint8Array>,
  ): Promise<Outcome> {
    const plain = await read();
    const bytes = await algorithms[coding]!(plain);
    const outcome = bytes.length < plain.length ? bytes : undefined;
    const before = made.get(address);
    const outcomes = new Map(before?.version === version ? before.outcomes : []).set(coding, outcome);
    made.set(address, { version, outcomes }, costOf(outcomes));
    return outcome;
  }

  return {
    codings: Object.keys(algorithms) as Coding[],
    version: VERSION,
    digest: (bytes) => createHash("sha256").update(bytes).digest("base64url"),
    async compressOnce(coding, plain) {
      const bytes = await algorithms[coding]!(plain);
      return bytes.length < plain.length ? bytes : undefined;
    },
    compress(key, coding, read) {
      const { version } = key;
      const entry = made.use(key.address);
      if (entry?.version === version && entry.outcomes.has(coding))
        return Promise.resolve(entry.outcomes.get(coding));
      const running = underWay.get(version) ?? new Map<Coding, Promise<Outcome>>();
      underWay.set(version, running);
      let promise = running.get(coding);
      if (promise === undefined) {
        promise = make(key, coding, read).finally(() => {
          running.delete(coding);
          if (running.size === 0) underWay.delete(version);
        });
        running.set(coding, promise);
      }
      return promise;
    },
  };
}

function costOf(entry: ReadonlyMap<Coding, Outcome>): number {
  return [...entry.values()].reduce((sum, bytes) => sum + (bytes?.length ?? 0) + ENTRY_BYTES, 0);
}
