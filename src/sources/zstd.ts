import zlib from "node:zlib";

type Compress = (bytes: Uint8Array, done: (error: Error | null, made: Uint8Array) => void) => void;

/** The platform's zstd (RFC 8878): Node has it from 22.15 on, and the types of Node 20 do not know it. Undefined where there is none. */
export const zstdCompress: Compress | undefined = (zlib as { readonly zstdCompress?: Compress }).zstdCompress;
