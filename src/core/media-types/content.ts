import { UNKNOWN_TYPE } from "./table.js";

/** How much of a file is looked at: the resource header of the MIME Sniffing Standard §5.2, in bytes. */
export const HEADER_BYTES = 1445;

/** A signature: bytes in hexadecimal, `..` for any byte, and the type they stand for. */
type Signature = readonly [pattern: string, type: string];

// MIME Sniffing Standard §7.1 step 1 (documents), §6.1, §6.2, §6.4, in the order of the standard; text is written as its bytes.
// Departs: §7.1 step 1 looks for byte order marks here; they come last below, because no signature begins with one.
const SIGNATURES: readonly Signature[] = [
  ["25 50 44 46 2d", "application/pdf"],
  ["25 21 50 53 2d 41 64 6f 62 65 2d", "application/postscript"],
  // §6.1 images
  ["00 00 01 00", "image/x-icon"],
  ["00 00 02 00", "image/x-icon"],
  ["42 4d", "image/bmp"],
  ["47 49 46 38 37 61", "image/gif"],
  ["47 49 46 38 39 61", "image/gif"],
  ["52 49 46 46 .. .. .. .. 57 45 42 50 56 50", "image/webp"],
  ["89 50 4e 47 0d 0a 1a 0a", "image/png"],
  ["ff d8 ff", "image/jpeg"],
  // §6.2 audio and video
  ["46 4f 52 4d .. .. .. .. 41 49 46 46", "audio/aiff"],
  ["49 44 33", "audio/mpeg"],
  ["4f 67 67 53 00", "application/ogg"],
  ["4d 54 68 64 00 00 00 06", "audio/midi"],
  ["52 49 46 46 .. .. .. .. 41 56 49 20", "video/avi"],
  ["52 49 46 46 .. .. .. .. 57 41 56 45", "audio/wave"],
  // §6.3 fonts. Departs: §7.1 does not look for fonts, and a font without an extension is one all the same.
  ["00 01 00 00", "font/ttf"],
  ["4f 54 54 4f", "font/otf"],
  ["74 74 63 66", "font/collection"],
  ["77 4f 46 46", "font/woff"],
  ["77 4f 46 32", "font/woff2"],
  // §6.4 archives
  ["1f 8b 08", "application/x-gzip"],
  ["50 4b 03 04", "application/zip"],
  ["52 61 72 21 1a 07 00", "application/x-rar-compressed"],
  // Departs: in common use, and beyond the standard's list.
  ["66 4c 61 43", "audio/flac"],
  ["28 b5 2f fd", "application/zstd"],
  ["37 7a bc af 27 1c", "application/x-7z-compressed"],
  ["00 61 73 6d", "application/wasm"],
];

const COMPILED = SIGNATURES.map(([pattern, type]) => ({
  bytes: pattern.split(" ").map((byte) => (byte === ".." ? -1 : Number.parseInt(byte, 16))),
  type,
}));

// MIME Sniffing Standard §7.1: tags, in any case, after white space, ended by a blank or ">".
const HTML_START =
  /^[\t\n\f\r ]*(?:<!DOCTYPE HTML|<HTML|<HEAD|<SCRIPT|<IFRAME|<H1|<DIV|<FONT|<TABLE|<A|<STYLE|<TITLE|<B|<BODY|<BR|<P|<!--)[ >]/i;
const XML_START = /^[\t\n\f\r ]*<\?xml/;

/**
 * The media type that the first bytes of a file show, by the MIME Sniffing Standard §7.1 ("identifying an unknown MIME
 * type"): for files whose name says nothing. Pass at most the first HEADER_BYTES.
 */
export function decideTypeByContent(header: Uint8Array): string {
  const start = latin1(header);
  // Departs: the standard needs a blank or ">" behind "<!--" too; browsers read a comment without one.
  if (HTML_START.test(start) || /^[\t\n\f\r ]*<!--/.test(start)) return "text/html";
  if (XML_START.test(start)) return "text/xml";
  for (const { bytes, type } of COMPILED) {
    // Each signature ends in a byte that is named, so that a header cut short has none there.
    if (bytes.every((byte, i) => byte < 0 || header[i] === byte)) return type;
  }
  // §6.2.1, §6.2.2: containers that need more than their first bytes.
  const container = decideContainer(header, start);
  if (container !== undefined) return container;
  // Byte order marks of UTF-16 and UTF-8 stand for text.
  if (/^(?:\xfe\xff|\xff\xfe|\xef\xbb\xbf)/.test(start)) return "text/plain";
  // §3: a binary data byte shows that it is no text.
  return /[\x00-\x08\x0b\x0e-\x1a\x1c-\x1f]/.test(start) ? UNKNOWN_TYPE : "text/plain";
}

const HEIC_BRANDS: ReadonlySet<string> = new Set(["heic", "heix", "hevc", "hevx"]);

function decideContainer(header: Uint8Array, start: string): string | undefined {
  // ISO base media: a box "ftyp" first, whose brands name the format. Departs: §6.2.1 knows "mp4" alone, and needs the size of
  // the box to be a multiple of four and in what was read.
  if (header.length >= 12 && start.slice(4, 8) === "ftyp") {
    const size = Math.min(readSize(header), header.length);
    const brands = [start.slice(8, 12), ...(start.slice(16, size).match(/.{4}/gs) ?? [])];
    if (brands.some((brand) => brand === "avif" || brand === "avis")) return "image/avif";
    if (brands.some((brand) => HEIC_BRANDS.has(brand))) return "image/heic";
    if (brands.some((brand) => brand.startsWith("mp4"))) return "video/mp4";
    return undefined;
  }
  // EBML: the document type stands in the header; Matroska and WebM share the rest. Departs: §6.2.2 knows WebM alone, and reads
  // the element's length.
  // Omitted: §6.2.3 (MP3 without ID3), whose check of frames finds sound in other bytes by chance.
  if (start.startsWith("\x1a\x45\xdf\xa3")) {
    const head = start.slice(0, 64);
    return head.includes("webm") ? "video/webm" : head.includes("matroska") ? "video/matroska" : undefined;
  }
  return undefined;
}

function readSize(header: Uint8Array): number {
  return ((header[0]! << 24) | (header[1]! << 16) | (header[2]! << 8) | header[3]!) >>> 0;
}

// In one call: a header is short.
function latin1(bytes: Uint8Array): string {
  return String.fromCharCode.apply(undefined, bytes as unknown as number[]);
}
