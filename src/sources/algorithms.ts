import { promisify } from "node:util";
import zlib, { brotliCompress, constants, gzip } from "node:zlib";
import type { Coding } from "../core/rules/codings.js";

/** What makes a coding of bytes, by its name. One that this Node does not have is left out. */
export type Algorithms = Readonly<Partial<Record<Coding, (bytes: Uint8Array) => Promise<Uint8Array>>>>;

type Compress = (bytes: Uint8Array, done: (error: Error | null, made: Uint8Array) => void) => void;

// RFC 8878. Node has it from 22.15 on; the types of Node 20 do not know it.
const { zstdCompress } = zlib as { readonly zstdCompress?: Compress };
const brotli = promisify(brotliCompress);
const deflate = promisify(gzip);

/** The platform's algorithms, which run off the main thread, with the effort to make: 0 to 11 for br, 1 to 9 for gzip. */
export function makeAlgorithms(effort: { readonly br: number; readonly gzip: number }): Algorithms {
  return {
    br: (bytes) =>
      brotli(bytes, {
        params: {
          [constants.BROTLI_PARAM_QUALITY]: effort.br,
          [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
        },
      }),
    ...(zstdCompress !== undefined && { zstd: promisify(zstdCompress) }),
    gzip: (bytes) => deflate(bytes, { level: effort.gzip }),
  };
}
