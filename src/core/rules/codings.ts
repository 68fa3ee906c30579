/** A content coding that is offered besides sending the bytes as they are (RFC 9110 §8.4.1). */
export type Coding = "br" | "zstd" | "gzip";

/** The ending of a prebuilt file's name by the name of the coding in `Content-Encoding`. */
export const CODING_ENDINGS: Readonly<Record<Coding, string>> = { br: ".br", zstd: ".zst", gzip: ".gz" };

export const CODINGS = Object.keys(CODING_ENDINGS) as readonly Coding[];
