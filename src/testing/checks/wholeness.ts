import { readMediaType } from "./content.js";

const ASCII = (text: string): number[] => [...text].map((letter) => letter.charCodeAt(0));

/** Formats that say where they end. */
interface Format {
  readonly types: RegExp;
  readonly start: readonly number[];
  readonly name: string;
  /** What is wrong with its end, in words. */
  findFlaw(bytes: Uint8Array): string | undefined;
}

const LACKS_END = "it is incomplete: its end is missing";

const FORMATS: readonly Format[] = [
  {
    // ISO/IEC 15948 §11.2.5: the last chunk is IEND.
    types: /^image\/png$/,
    start: [0x89, 0x50, 0x4e, 0x47],
    name: "a PNG picture",
    findFlaw(bytes) {
      // §11.2.2: the first chunk tells the size.
      if (textAt(bytes, 12, 16) !== "IHDR") return undefined;
      const at = lastIndexOf(bytes, [...ASCII("IEND"), 0xae, 0x42, 0x60, 0x82]);
      if (at < 0) return LACKS_END;
      const behind = bytes.length - at - 8;
      return behind > 0 ? `${behind} bytes follow its end` : undefined;
    },
  },
  {
    // GIF89a §27: the trailer.
    types: /^image\/gif$/,
    start: ASCII("GIF8"),
    name: "a GIF picture",
    findFlaw: (bytes) => (bytes.subarray(-64).includes(0x3b) ? undefined : LACKS_END),
  },
  {
    // ITU-T T.81 §B.1.1.3: end of image. Cameras put more behind it.
    types: /^image\/jpeg$/,
    start: [0xff, 0xd8, 0xff],
    name: "a JPEG picture",
    findFlaw: (bytes) => (bytes[3]! >= 0xc0 && lastIndexOf(bytes, [0xff, 0xd9]) < 0 ? LACKS_END : undefined),
  },
  {
    // RFC 9649 §2.3, and the same container for sounds: a size behind the first four bytes.
    types: /^image\/webp$/,
    start: ASCII("RIFF"),
    name: "a WebP picture",
    findFlaw: (bytes) =>
      textAt(bytes, 8, 15) === "WEBPVP8"
        ? compareLength(bytes, viewOf(bytes).getUint32(4, true) + 8)
        : undefined,
  },
  {
    types: /^audio\/(?:x-|vnd\.)?wave?$/,
    start: ASCII("RIFF"),
    name: "a WAVE sound",
    findFlaw: findWaveFlaw,
  },
  {
    // WOFF2 §4.1; WOFF 1.0 §3: the length of the whole.
    types: /^(?:font\/woff2|application\/font-woff2)$/,
    start: ASCII("wOF2"),
    name: "a WOFF2 font",
    findFlaw: findFontFlaw,
  },
  {
    types: /^(?:font\/woff|application\/font-woff)$/,
    start: ASCII("wOFF"),
    name: "a WOFF font",
    findFlaw: findFontFlaw,
  },
  {
    // APPNOTE §4.3.16: the end of the central directory, with a comment of 65,535 bytes at most.
    types:
      /^application\/(?:zip|epub\+zip|vnd\.openxmlformats-officedocument\..+|vnd\.oasis\.opendocument\..+)$/,
    start: ASCII("PK\x03\x04"),
    name: "a ZIP archive",
    findFlaw(bytes) {
      const isEntry = bytes[4]! <= 63 && bytes[9] === 0;
      return isEntry && lastIndexOf(bytes.subarray(-65_557), ASCII("PK\x05\x06")) < 0 ? LACKS_END : undefined;
    },
  },
  {
    // ISO 32000-1 §7.5.5.
    types: /^application\/pdf$/,
    start: ASCII("%PDF-"),
    name: "a PDF document",
    findFlaw: (bytes) =>
      lastIndexOf(bytes.subarray(0, 4096), ASCII(" obj")) >= 0 &&
      lastIndexOf(bytes.subarray(-2048), ASCII("%%EOF")) < 0
        ? LACKS_END
        : undefined,
  },
];

/** Of less than any such file has, nothing is said, in bytes. */
const SMALLEST = 64;

/** What is wrong with the bytes of a file that is no text: it is cut, goes on behind its end, or is a text. Undefined when all is well. */
export function findFlawInBytes(
  headers: Readonly<Record<string, string>>,
  bytes: Uint8Array,
): string | undefined {
  const type = readMediaType(headers) ?? "";
  const format = FORMATS.find(({ types }) => types.test(type));
  if (format === undefined || bytes.length < SMALLEST) return undefined;
  if (format.start.every((byte, index) => bytes[index] === byte)) {
    return format.findFlaw(bytes);
  }
  return isText(bytes) ? `a text instead of ${format.name}: ${quoteStart(bytes)}` : undefined;
}

/** A RIFF container of a sound; one whose parts make no sense is left alone. */
function findWaveFlaw(bytes: Uint8Array): string | undefined {
  const view = viewOf(bytes);
  const size = view.getUint32(4, true);
  const isKnown = bytes.length >= 44 && textAt(bytes, 8, 12) === "WAVE" && textAt(bytes, 12, 16) === "fmt ";
  const channels = isKnown ? view.getUint16(22, true) : 0;
  // A recorder that did not know the length wrote none.
  if (channels < 1 || channels > 32 || size === 0 || size >= 0xffff_ff00) return undefined;
  return size + 8 > bytes.length ? compareLength(bytes, size + 8) : undefined;
}

/** The header of both forms: flavour, length, count of tables, and two bytes of 0 (WOFF2 §4.1, WOFF 1.0 §3). */
function findFontFlaw(bytes: Uint8Array): string | undefined {
  const view = viewOf(bytes);
  const isFont =
    [0x0001_0000, 0x4f54_544f, 0x7472_7565].includes(view.getUint32(4)) && view.getUint16(14) === 0;
  return isFont && view.getUint16(12) > 0 ? compareLength(bytes, view.getUint32(8)) : undefined;
}

function compareLength(bytes: Uint8Array, length: number): string | undefined {
  if (bytes.length < length) return `it is incomplete: it ends after ${bytes.length} of its ${length} bytes`;
  // A byte of padding is usual.
  return bytes.length > length + 1 ? `${bytes.length - length} bytes follow its end` : undefined;
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

function textAt(bytes: Uint8Array, from: number, to: number): string {
  return String.fromCharCode(...bytes.subarray(from, to));
}

function lastIndexOf(bytes: Uint8Array, wanted: readonly number[]): number {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).lastIndexOf(Buffer.from(wanted));
}

// Words: a file that stands for another one in a repository, a message, a page.
function isText(bytes: Uint8Array): boolean {
  if (!bytes.subarray(0, 512).some((byte) => byte === 0x20)) return false;
  return bytes
    .subarray(0, 512)
    .every((byte) => (byte >= 0x20 && byte < 0x7f) || byte === 0x0a || byte === 0x0d || byte === 0x09);
}

function quoteStart(bytes: Uint8Array): string {
  return JSON.stringify(textAt(bytes, 0, Math.min(50, bytes.length)).split("\n")[0]);
}
