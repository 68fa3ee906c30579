/** What the bytes of a picture or a film tell of it. */
export interface Picture {
  /** Pixels. */
  readonly width: number;
  readonly height: number;
}

/** How much of a picture's start tells its size, in bytes: a photograph's metadata may come first. */
export const PICTURE_HEAD = 64 * 1024;

/**
 * The size of a picture from its first bytes: PNG (ISO/IEC 15948), GIF89a, JPEG (ITU-T T.81), WebP (RFC 9649); of a film
 * or a picture in the ISO base media format too (AVIF, HEIF), where its description comes first; of icons and BMP. Undefined for others, and where the size lies further in.
 */
export function readPicture(head: Uint8Array): Picture | undefined {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  if (startsWith(head, PNG) && head.length >= 24)
    return { width: view.getUint32(16), height: view.getUint32(20) };
  if (startsWith(head, [0x47, 0x49, 0x46, 0x38]) && head.length >= 10)
    return { width: view.getUint16(6, true), height: view.getUint16(8, true) };
  if (startsWith(head, [0xff, 0xd8])) return readJpeg(view);
  if (isWebp(head)) return readWebp(view);
  if (startsWith(head, [0x42, 0x4d]) && head.length >= 26)
    return { width: Math.abs(view.getInt32(18, true)), height: Math.abs(view.getInt32(22, true)) };
  if (startsWith(head, [0, 0, 1, 0])) return readIcon(view);
  return typeOfBox(view, 0) === "ftyp" ? (readExtent(head) ?? readFilm(view)) : undefined;
}

// ISO/IEC 23008-12 §6.5.3: the largest extent is that of the picture, others those of its thumbnails and tiles.
function readExtent(head: Uint8Array): Picture | undefined {
  const bytes = Buffer.from(head.buffer, head.byteOffset, head.byteLength);
  let found: Picture | undefined;
  for (
    let at = bytes.indexOf("ispe");
    at >= 0 && at + 16 <= bytes.length;
    at = bytes.indexOf("ispe", at + 4)
  ) {
    const width = bytes.readUInt32BE(at + 8);
    if (width > (found?.width ?? 0)) found = { width, height: bytes.readUInt32BE(at + 12) };
  }
  return found;
}

// An icon holds pictures in several sizes; 0 stands for 256.
function readIcon(view: DataView): Picture | undefined {
  let found: Picture | undefined;
  if (view.byteLength < 6) return undefined;
  const count = Math.min(view.getUint16(4, true), 64);
  for (let at = 6; at < 6 + count * 16 && at + 2 <= view.byteLength; at += 16) {
    const width = view.getUint8(at) || 256;
    if (width > (found?.width ?? 0)) found = { width, height: view.getUint8(at + 1) || 256 };
  }
  return found;
}

// ISO/IEC 14496-12 §4.2, §8.3.2: boxes, each with its length; the track header ends in width and height, in 65,536ths of a pixel.
function readFilm(view: DataView): Picture | undefined {
  const found = findTracks(view, 0, view.byteLength, 0);
  return found.reduce<Picture | undefined>(
    (widest, one) => (one.width > (widest?.width ?? 0) ? one : widest),
    undefined,
  );
}

/** A header lies in a track, and that in the film: boxes that lie deeper are somebody's joke. */
const DEEPEST_BOX = 2;

function findTracks(view: DataView, from: number, to: number, depth: number): Picture[] {
  const tracks: Picture[] = [];
  for (let at = from; at + 8 <= to; ) {
    const size = view.getUint32(at);
    const type = typeOfBox(view, at);
    const end = Math.min(to, at + size);
    if (size < 8) break;
    if ((type === "moov" || type === "trak") && depth < DEEPEST_BOX)
      tracks.push(...findTracks(view, at + 8, end, depth + 1));
    if (type === "tkhd" && at + size <= view.byteLength)
      tracks.push({ width: view.getUint32(end - 8) >> 16, height: view.getUint32(end - 4) >> 16 });
    at += size;
  }
  return tracks;
}

function typeOfBox(view: DataView, at: number): string {
  if (at + 8 > view.byteLength) return "";
  return String.fromCharCode(...[4, 5, 6, 7].map((i) => view.getUint8(at + i)));
}

const PNG = [0x89, 0x50, 0x4e, 0x47];

function startsWith(bytes: Uint8Array, start: readonly number[]): boolean {
  return start.every((byte, i) => bytes[i] === byte);
}

function isWebp(head: Uint8Array): boolean {
  return startsWith(head, [0x52, 0x49, 0x46, 0x46]) && startsWith(head.subarray(8), [0x57, 0x45, 0x42, 0x50]);
}

// ITU-T T.81 Annex B: segments, each with its length, up to the frame header.
function readJpeg(view: DataView): Picture | undefined {
  let at = 2;
  while (at + 9 < view.byteLength) {
    if (view.getUint8(at) !== 0xff) return undefined;
    const marker = view.getUint8(at + 1);
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return { height: view.getUint16(at + 5), width: view.getUint16(at + 7) };
    at += 2 + view.getUint16(at + 2);
  }
  return undefined;
}

// RFC 9649 §2.4 to §2.7.
function readWebp(view: DataView): Picture | undefined {
  if (view.byteLength < 30) return undefined;
  const chunk = String.fromCharCode(...[12, 13, 14, 15].map((at) => view.getUint8(at)));
  const get24 = (at: number): number => view.getUint16(at, true) + view.getUint8(at + 2) * 65_536;
  if (chunk === "VP8X") return { width: 1 + get24(24), height: 1 + get24(27) };
  if (chunk === "VP8L") {
    const bits = view.getUint32(21, true);
    return { width: 1 + (bits & 0x3fff), height: 1 + ((bits >> 14) & 0x3fff) };
  }
  if (chunk === "VP8 ")
    return { width: view.getUint16(26, true) & 0x3fff, height: view.getUint16(28, true) & 0x3fff };
  return undefined;
}
