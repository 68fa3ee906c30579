/** What the metadata of a picture tells about the person behind the camera. */
export interface PictureNotes {
  /** It says where the picture was taken. */
  readonly hasPlace: boolean;
  /** The owner of the camera, where the picture names one. */
  readonly owner: string | undefined;
}

// Exif 2.32: IFD pointers, and the tags that name a person.
const GPS = 0x8825;
const EXIF = 0x8769;
const OWNER = 0xa430;
/** An IFD with more entries is damaged. */
const ENTRIES_AT_MOST = 512;

/** Reads the Exif metadata in the first bytes of a JPEG (Exif 2.32 §4.7.2), a PNG (chunk eXIf) or a WebP (chunk EXIF). Undefined without any. */
export function readPictureNotes(head: Uint8Array): PictureNotes | undefined {
  const bytes = Buffer.from(head.buffer, head.byteOffset, head.byteLength);
  const at = findExif(bytes);
  return at < 0 ? undefined : readExif(bytes.subarray(at));
}

// Both forms of the byte order mark of TIFF 6.0 §2.
function findExif(bytes: Buffer): number {
  if (bytes[0] === 0xff && bytes[1] === 0xd8) {
    const mark = bytes.indexOf("Exif\0\0", 0, "latin1");
    return mark < 0 ? -1 : mark + 6;
  }
  const isPng = bytes[0] === 0x89 && bytes[1] === 0x50;
  const isWebp = bytes.toString("latin1", 8, 12) === "WEBP";
  if (!isPng && !isWebp) return -1;
  const chunk = bytes.indexOf(isPng ? "eXIf" : "EXIF", 0, "latin1");
  if (chunk < 0) return -1;
  return isPng ? chunk + 4 : chunk + 8;
}

function readExif(bytes: Buffer): PictureNotes | undefined {
  const order = bytes.toString("latin1", 0, 2);
  if (order !== "II" && order !== "MM") return undefined;
  const reader = new Exif(bytes, order === "II");
  const first = reader.readEntries(reader.get32(4) ?? 0);
  const exif = reader.readEntries(reader.valueOf(first.get(EXIF)) ?? 0);
  const gps = reader.readEntries(reader.valueOf(first.get(GPS)) ?? 0);
  const owner = reader.readText(exif.get(OWNER));
  // Exif §4.6.6: latitude and longitude.
  return { hasPlace: gps.has(2) && gps.has(4), owner: owner === "" ? undefined : owner };
}

class Exif {
  readonly #bytes: Buffer;
  readonly #isLittle: boolean;

  constructor(bytes: Buffer, isLittle: boolean) {
    this.#bytes = bytes;
    this.#isLittle = isLittle;
  }

  get16(at: number): number | undefined {
    if (at < 0 || at + 2 > this.#bytes.length) return undefined;
    return this.#isLittle ? this.#bytes.readUInt16LE(at) : this.#bytes.readUInt16BE(at);
  }

  get32(at: number): number | undefined {
    if (at < 0 || at + 4 > this.#bytes.length) return undefined;
    return this.#isLittle ? this.#bytes.readUInt32LE(at) : this.#bytes.readUInt32BE(at);
  }

  /** Where each entry of a directory lies, by its tag (TIFF 6.0 §2). */
  readEntries(at: number): Map<number, number> {
    const found = new Map<number, number>();
    const count = at === 0 ? 0 : (this.get16(at) ?? 0);
    for (let index = 0; index < Math.min(count, ENTRIES_AT_MOST); index++) {
      const entry = at + 2 + index * 12;
      const tag = this.get16(entry);
      if (tag !== undefined) found.set(tag, entry);
    }
    return found;
  }

  valueOf(entry: number | undefined): number | undefined {
    return entry === undefined ? undefined : this.get32(entry + 8);
  }

  readText(entry: number | undefined): string {
    if (entry === undefined) return "";
    const count = Math.min(this.get32(entry + 4) ?? 0, 200);
    const at = count <= 4 ? entry + 8 : (this.get32(entry + 8) ?? 0);
    return this.#bytes
      .toString("latin1", at, at + count)
      .replace(/\0.*$/s, "")
      .trim();
  }
}
