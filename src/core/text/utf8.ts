/** Encodes text as UTF-8. Lone surrogates become U+FFFD, as in the Encoding Standard. */
export function encodeUtf8(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length * 3);
  let length = 0;
  for (const character of text.toWellFormed()) {
    const code = character.codePointAt(0)!;
    if (code < 0x80) bytes[length++] = code;
    else if (code < 0x800) {
      bytes[length++] = 0xc0 | (code >> 6);
      bytes[length++] = 0x80 | (code & 0x3f);
    } else if (code < 0x10000) {
      bytes[length++] = 0xe0 | (code >> 12);
      bytes[length++] = 0x80 | ((code >> 6) & 0x3f);
      bytes[length++] = 0x80 | (code & 0x3f);
    } else {
      bytes[length++] = 0xf0 | (code >> 18);
      bytes[length++] = 0x80 | ((code >> 12) & 0x3f);
      bytes[length++] = 0x80 | ((code >> 6) & 0x3f);
      bytes[length++] = 0x80 | (code & 0x3f);
    }
  }
  return bytes.slice(0, length);
}
