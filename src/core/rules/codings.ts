/** A content coding that is offered besides sending the bytes as they are (RFC 9110 §8.4.1). */
export type Coding = "br" | "zstd" | "gzip";

/** The ending of a prebuilt file's name by the name of the coding in `Content-Encoding`. */
export const CODING_ENDINGS: Readonly<Record<Coding, string>> = { br: ".br", zstd: ".zst", gzip: ".gz" };

/** True for bytes in the gzip format (RFC 1952 §2.3.1). */
export const isGzip = (bytes: Uint8Array): boolean => bytes[0] === 0x1f && bytes[1] === 0x8b;

/** True for a drawing that may be compressed by itself, as `.svgz` says; its bytes decide. */
export const mayBePacked = (path: string, contentType: string | undefined): boolean =>
  contentType === "image/svg+xml" && /z$/i.test(path);

export const CODINGS = Object.keys(CODING_ENDINGS) as readonly Coding[];
