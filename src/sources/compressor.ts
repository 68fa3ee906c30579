import { createHash } from "node:crypto";
import { promisify } from "node:util";
import { brotliCompress, constants, gzip } from "node:zlib";
import type { Coding, Compressor } from "../core/represent/coding.js";

/** How much compressed content is kept, in bytes; what was used longest ago goes first. */
const KEPT_BYTES = 64 * 1024 * 1024;
/** What an outcome costs besides its bytes: that there is none is kept too. */
const ENTRY_BYTES = 512;

const brotli = promisify(brotliCompress);
const deflate = promisify(gzip);

// The platform compresses off the main thread. Quality: a page's worth of text in a few milliseconds.
const algorithms: Readonly<Record<Coding, (bytes: Uint8Array) => Promise<Uint8Array>>> = {
  br: (bytes) =>
    brotli(bytes, {
      params: {
        [constants.BROTLI_PARAM_QUALITY]: 5,
        [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
      },
    }),
  gzip: (bytes) => deflate(bytes, { level: 6 }),
};

/** Other versions of the platform's algorithms may give other bytes, so they have other tags. */
const VERSION = createHash("sha256")
  .update(`${process.versions.zlib} ${process.versions.brotli}`)
  .digest("base64url")
  .slice(0, 4);

type Outcome = Uint8Array | undefined;

/** Makes a compressor with a memory of its own, bounded in bytes. */
export function makeCompressor(keptBytes: number = KEPT_BYTES): Compressor {
  const done = new Map<object, Map<Coding, Outcome>>();
  const underWay = new Map<object, Map<Coding, Promise<Outcome>>>();
  let used = 0;

  const costOf = (entry: ReadonlyMap<Coding, Outcome>): number =>
    [...entry.values()].reduce((sum, bytes) => sum + (bytes?.length ?? 0) + ENTRY_BYTES, 0);

  function keep(key: object, coding: Coding, outcome: Outcome): void {
    const entry = done.get(key) ?? new Map<Coding, Outcome>();
    done.delete(key);
    used -= costOf(entry);
    entry.set(coding, outcome);
    used += costOf(entry);
    done.set(key, entry);
    for (const [oldest, old] of done) {
      if (used <= keptBytes) break;
      done.delete(oldest);
      used -= costOf(old);
    }
  }

  async function make(key: object, coding: Coding, read: () => Promise<Uint8Array>): Promise<Outcome> {
    const plain = await read();
    const bytes = await algorithms[coding](plain);
    const outcome = bytes.length < plain.length ? bytes : undefined;
    keep(key, coding, outcome);
    return outcome;
  }

  return {
    version: VERSION,
    compress(key, coding, read) {
      const entry = done.get(key);
      if (entry?.has(coding)) {
        // Used last: the end of the map is the youngest.
        done.delete(key);
        done.set(key, entry);
        return Promise.resolve(entry.get(coding));
      }
      const running = underWay.get(key) ?? new Map<Coding, Promise<Outcome>>();
      underWay.set(key, running);
      let promise = running.get(coding);
      if (promise === undefined) {
        promise = make(key, coding, read).finally(() => {
          running.delete(coding);
          if (running.size === 0) underWay.delete(key);
        });
        running.set(coding, promise);
      }
      return promise;
    },
  };
}
