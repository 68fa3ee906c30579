/** What was read of a file: from its first byte on, up to its last one, and its size in bytes. Of a whole file all three are of it. */
export interface Seen {
  readonly head: Uint8Array;
  readonly tail: Uint8Array;
  readonly sizeBytes: number;
}

/** What is wrong with a file of a format: it was cut, something follows its end, or it is a text. */
export interface Flaw {
  readonly kind: "cut" | "behind" | "text";
  /** In words, without a full stop. */
  readonly text: string;
}

/** A format that says where it ends. */
interface Format {
  /** The media types that it may have. */
  readonly types: RegExp;
  /** How it begins. */
  readonly start: readonly number[];
  readonly name: string;
  /** How much of its end tells whether it is whole, in bytes. */
  readonly tailBytes: number;
  findFlaw(seen: Seen): Flaw | undefined;
}

const ascii = (text: string): number[] => [...text].map((letter) => letter.charCodeAt(0));
const LACKS_END: Flaw = { kind: "cut", text: "it is incomplete: its end is missing" };
/** Other programs append a little to a picture. */
const NOTES_BYTES = 1024;

/** Formats by how they begin and end: what a server sends, and what lies in a folder, is held against the same ones. */
const FORMATS: readonly Format[] = [
  {
    // ISO/IEC 15948 §11.2.5: the last chunk is IEND.
    types: /^image\/(?:a?png|vnd\.mozilla\.apng)$/,
    start: [0x89, 0x50, 0x4e, 0x47],
    name: "a PNG picture",
    tailBytes: NOTES_BYTES,
    findFlaw({ head, tail }) {
      // §5.2: these are there so that a copy as text shows.
      const marks = textAt(head, 4, 12);
      if (!marks.startsWith("\r\n\x1a\n") && /^(?:\r*\n\x1a|\r\x1a)/.test(marks))
        return { kind: "text", text: "a PNG picture whose line ends were converted, as if it were a text" };
      // §11.2.2: the first chunk tells the size.
      if (textAt(head, 12, 16) !== "IHDR") return undefined;
      const at = lastIndexOf(tail, [...ascii("IEND"), 0xae, 0x42, 0x60, 0x82]);
      if (at < 0) return LACKS_END;
      return tellBehind(tail.length - at - 8);
    },
  },
  {
    // GIF89a §27: the trailer.
    types: /^image\/gif$/,
    start: ascii("GIF8"),
    name: "a GIF picture",
    tailBytes: 64,
    findFlaw: ({ tail }) => (tail.subarray(-64).includes(0x3b) ? undefined : LACKS_END),
  },
  {
    // ITU-T T.81 §B.1.1.3: end of image. Cameras put more behind it.
    types: /^image\/p?jpeg$/,
    start: [0xff, 0xd8, 0xff],
    name: "a JPEG picture",
    tailBytes: NOTES_BYTES,
    findFlaw: ({ head, tail }) =>
      head[3]! >= 0xc0 && lastIndexOf(tail, [0xff, 0xd9]) < 0 ? LACKS_END : undefined,
  },
  {
    // RFC 9649 §2.3, and the same container for sounds: a size behind the first four bytes.
    types: /^image\/webp$/,
    start: ascii("RIFF"),
    name: "a WebP picture",
    tailBytes: 0,
    findFlaw: ({ head, sizeBytes }) =>
      textAt(head, 8, 15) === "WEBPVP8"
        ? compareLength(sizeBytes, viewOf(head).getUint32(4, true) + 8)
        : undefined,
  },
  {
    types: /^audio\/(?:x-|vnd\.)?wave?$/,
    start: ascii("RIFF"),
    name: "a WAVE sound",
    tailBytes: 0,
    findFlaw: findWaveFlaw,
  },
  {
    // WOFF2 §4.1; WOFF 1.0 §3: the length of the whole.
    types: /^(?:font\/woff2|application\/font-woff2)$/,
    start: ascii("wOF2"),
    name: "a WOFF2 font",
    tailBytes: 0,
    findFlaw: findFontFlaw,
  },
  {
    types: /^(?:font\/woff|application\/font-woff)$/,
    start: ascii("wOFF"),
    name: "a WOFF font",
    tailBytes: 0,
    findFlaw: findFontFlaw,
  },
  {
    // ISO/IEC 14496-12 §4.2: boxes, each with its length.
    types: /^(?:video|audio)\/(?:mp4|quicktime|x-m4a)$/,
    start: [0, 0, 0],
    name: "a film or sound in boxes",
    tailBytes: 0,
    findFlaw: findBoxFlaw,
  },
  {
    // Its header says how long it is, like that of its predecessor.
    types: /^image\/(?:x-ms-)?bmp$/,
    start: ascii("BM"),
    name: "a BMP picture",
    tailBytes: 0,
    findFlaw: ({ head, sizeBytes }) =>
      head.length >= 26 && viewOf(head).getUint32(2, true) > sizeBytes
        ? compareLength(sizeBytes, viewOf(head).getUint32(2, true))
        : undefined,
  },
  {
    // APPNOTE §4.3.16: the end of the central directory, with a comment of 65,535 bytes at most.
    types:
      /^application\/(?:zip|epub\+zip|vnd\.openxmlformats-officedocument\..+|vnd\.oasis\.opendocument\..+)$/,
    start: ascii("PK\x03\x04"),
    name: "a ZIP archive",
    tailBytes: 65_557,
    findFlaw({ head, tail }) {
      const isEntry = head[4]! <= 63 && head[9] === 0;
      return isEntry && lastIndexOf(tail.subarray(-65_557), ascii("PK\x05\x06")) < 0 ? LACKS_END : undefined;
    },
  },
  {
    // ISO 32000-1 §7.5.5.
    types: /^application\/pdf$/,
    start: ascii("%PDF-"),
    name: "a PDF document",
    tailBytes: 2048,
    findFlaw: ({ head, tail }) =>
      lastIndexOf(head.subarray(0, 4096), ascii(" obj")) >= 0 &&
      lastIndexOf(tail.subarray(-2048), ascii("%%EOF")) < 0
        ? LACKS_END
        : undefined,
  },
];

const formatOf = (type: string): Format | undefined => FORMATS.find(({ types }) => types.test(type));

/** How much of the end of a file of a type tells whether it is whole, in bytes; 0 where its start or nothing does. */
export function wantedTail(type: string): number {
  return formatOf(type)?.tailBytes ?? 0;
}

/** Of less than any such file has, a text says nothing, in bytes. */
const SMALLEST = 64;

/** What is wrong with the bytes of a file of a media type. Undefined when all is well, or the type's end tells nothing. */
export function findFlaw(type: string, seen: Seen): Flaw | undefined {
  const format = formatOf(type);
  if (format === undefined) return undefined;
  const { head } = seen;
  if (format.start.every((byte, index) => head[index] === byte)) return format.findFlaw(seen);
  return head.length >= SMALLEST && isText(head)
    ? { kind: "text", text: `a text instead of ${format.name}: ${quoteStart(head)}` }
    : undefined;
}

/** Formats whose bytes are like chance: each of them is there, beside each other. */
const PACKED =
  /^(?:image\/(?:png|jpeg|webp|avif|gif)|font\/woff2?|(?:audio|video)\/|application\/(?:zip|gzip|x-gzip|wasm|font-woff))/;
/** Among this many such bytes, a carriage return is missing by chance once in billions of files. */
const TELLING_BYTES = 6000;
const TELLING_FEEDS = 8;

/** True for a packed file that was copied as a text: each line feed in it got a carriage return before it, or all of those were lost. */
export function isConvertedText(type: string, bytes: Uint8Array): boolean {
  if (!PACKED.test(type)) return false;
  let feeds = 0;
  let alone = 0;
  for (let at = bytes.indexOf(10); at >= 0; at = bytes.indexOf(10, at + 1)) {
    feeds++;
    if (bytes[at - 1] !== 13) alone++;
  }
  const isTaken = bytes.length >= TELLING_BYTES && !bytes.includes(13);
  return feeds >= TELLING_FEEDS && (alone === 0 || isTaken);
}

/** A RIFF container of a sound; one whose parts make no sense is left alone. */
function findWaveFlaw({ head, sizeBytes }: Seen): Flaw | undefined {
  const view = viewOf(head);
  const isKnown = head.length >= 44 && textAt(head, 8, 12) === "WAVE" && textAt(head, 12, 16) === "fmt ";
  const size = isKnown ? view.getUint32(4, true) : 0;
  const channels = isKnown ? view.getUint16(22, true) : 0;
  // A recorder that did not know the length wrote none.
  if (channels < 1 || channels > 32 || size === 0 || size >= 0xffff_ff00) return undefined;
  return size + 8 > sizeBytes ? compareLength(sizeBytes, size + 8) : undefined;
}

/** A box that ends behind the file was cut. What is no box of a kind that stands at the top tells nothing. */
function findBoxFlaw({ head, sizeBytes }: Seen): Flaw | undefined {
  const view = viewOf(head);
  for (let at = 0; at + 16 <= head.length; ) {
    if (!/^(?:ftyp|moov|mdat|free|skip|wide|moof|sidx|styp|uuid|meta)$/.test(textAt(head, at + 4, at + 8)))
      break;
    const short = view.getUint32(at);
    const size = short === 1 ? Number(view.getBigUint64(at + 8)) : short;
    // The last one may leave its length open.
    if (size < 8) break;
    if (at + size > sizeBytes) return compareLength(sizeBytes, at + size);
    at += size;
  }
  return undefined;
}

/** The header of both forms: flavour, length, count of tables, and two bytes of 0 (WOFF2 §4.1, WOFF 1.0 §3). */
function findFontFlaw({ head, sizeBytes }: Seen): Flaw | undefined {
  if (head.length < 16) return undefined;
  const view = viewOf(head);
  const isFont =
    [0x0001_0000, 0x4f54_544f, 0x7472_7565].includes(view.getUint32(4)) && view.getUint16(14) === 0;
  return isFont && view.getUint16(12) > 0 ? compareLength(sizeBytes, view.getUint32(8)) : undefined;
}

function compareLength(sizeBytes: number, length: number): Flaw | undefined {
  if (sizeBytes < length)
    return { kind: "cut", text: `it is incomplete: it ends after ${sizeBytes} of its ${length} bytes` };
  // A byte of padding is usual.
  return sizeBytes > length + 1 ? tellBehind(sizeBytes - length) : undefined;
}

function tellBehind(bytes: number): Flaw | undefined {
  return bytes > 0 ? { kind: "behind", text: `${bytes} bytes follow its end` } : undefined;
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
  const start = bytes.subarray(0, 512);
  return (
    start.includes(0x20) &&
    start.every((byte) => (byte >= 0x20 && byte < 0x7f) || byte === 0x0a || byte === 0x0d || byte === 0x09)
  );
}

function quoteStart(bytes: Uint8Array): string {
  return JSON.stringify(textAt(bytes, 0, Math.min(50, bytes.length)).split("\n")[0]);
}
