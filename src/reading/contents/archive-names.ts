/** How many names of an archive are read. */
const NAMES_AT_MOST = 2000;

/**
 * Names of files in an archive, as far as its first and last bytes tell them: ZIP (APPNOTE §4.3.7, §4.3.12), tar (POSIX ustar). None for
 * other files.
 */
export function listArchiveNames(head: Uint8Array, tail: Uint8Array): string[] {
  const start = Buffer.from(head.buffer, head.byteOffset, head.byteLength);
  if (start.toString("latin1", 0, 4) === "PK\x03\x04") {
    const end = Buffer.from(tail.buffer, tail.byteOffset, tail.byteLength);
    return [...listZip(start, "PK\x03\x04", 26, 30), ...listZip(end, "PK\x01\x02", 28, 46)];
  }
  return listTar(start);
}

// Both headers have the length of the name at `lengthAt`, and the name at `nameAt`.
function listZip(bytes: Buffer, mark: string, lengthAt: number, nameAt: number): string[] {
  const names: string[] = [];
  for (let at = bytes.indexOf(mark, 0, "latin1"); at >= 0; at = bytes.indexOf(mark, at + 4, "latin1")) {
    if (at + nameAt > bytes.length || names.length >= NAMES_AT_MOST) break;
    const length = bytes.readUInt16LE(at + lengthAt);
    names.push(bytes.toString("utf8", at + nameAt, at + nameAt + length));
  }
  return names;
}

function listTar(bytes: Buffer): string[] {
  const names: string[] = [];
  for (let at = 0; at + 512 <= bytes.length && names.length < NAMES_AT_MOST; ) {
    if (bytes.toString("latin1", at + 257, at + 262) !== "ustar") break;
    names.push(bytes.toString("utf8", at, at + 100).replace(/\0.*$/s, ""));
    const size = Number.parseInt(bytes.toString("latin1", at + 124, at + 136), 8);
    if (!Number.isSafeInteger(size) || size < 0) break;
    at += 512 + Math.ceil(size / 512) * 512;
  }
  return names;
}
