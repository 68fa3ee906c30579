/** A file's text, as browsers read it. */
export interface DecodedText {
  readonly text: string;
  /** True if a browser may read other characters: it does not know the charset, or bytes are not of that charset. */
  readonly isUnsure: boolean;
}

/**
 * Decodes a text file. A byte order mark counts more than `charset` (Encoding Standard §6). An unknown charset is read as
 * UTF-8, which most files are in.
 */
export function decodeText(bytes: Uint8Array, charset = "utf-8"): DecodedText {
  const label = (readMark(bytes) ?? charset).trim().toLowerCase();
  if (label === "utf-8") return { text: UTF8.decode(bytes), isUnsure: false };
  // The Encoding Standard §4.2: these are read as one replacement character, so that nothing in them runs.
  if (REPLACED.has(label)) return { text: "\ufffd", isUnsure: false };
  if (label === "x-user-defined") return { text: decodeUserDefined(bytes), isUnsure: false };
  try {
    const decoder = new TextDecoder(label);
    if (decoder.encoding === "windows-1252") return { text: decodeLatin(bytes), isUnsure: false };
    const text = decoder.decode(bytes);
    return {
      text,
      isUnsure: UNSURE.test(decoder.encoding) || (!decoder.encoding.startsWith("utf-") && ODD.test(text)),
    };
  } catch {
    return { text: UTF8.decode(bytes), isUnsure: true };
  }
}

const UTF8 = new TextDecoder();

/** Charsets that the platform reads a little differently than browsers do. */
const UNSURE = /^(?:gb|big5|euc-|shift_jis|iso-2022|koi8-u)/;
/** What bytes become that a charset does not have: the platform and the Encoding Standard do not agree on all of them. */
const ODD = /[\x80-\x9f\ufffd]/;

function readMark([first, second, third]: Uint8Array): string | undefined {
  if (first === 0xef && second === 0xbb && third === 0xbf) return "utf-8";
  if (first === 0xfe && second === 0xff) return "utf-16be";
  return first === 0xff && second === 0xfe ? "utf-16le" : undefined;
}

/** Labels of the encoding "replacement" (Encoding Standard §4.2). */
const REPLACED = new Set([
  "csiso2022kr",
  "hz-gb-2312",
  "iso-2022-cn",
  "iso-2022-cn-ext",
  "iso-2022-kr",
  "replacement",
]);

/** What the bytes 80 to 9F are in windows-1252 (Encoding Standard §9): Node 20 reads them as control characters. */
const LATIN =
  "\u20ac\u0081\u201a\u0192\u201e\u2026\u2020\u2021\u02c6\u2030\u0160\u2039\u0152\u008d\u017d\u008f\u0090\u2018\u2019\u201c\u201d\u2022\u2013\u2014\u02dc\u2122\u0161\u203a\u0153\u009d\u017e\u0178";

const decodeLatin = (bytes: Uint8Array): string =>
  spell(bytes, (byte) => (byte >= 0x80 && byte < 0xa0 ? LATIN.charCodeAt(byte - 0x80) : byte));

// Encoding Standard §14.5.
const decodeUserDefined = (bytes: Uint8Array): string =>
  spell(bytes, (byte) => (byte < 0x80 ? byte : 0xf700 + byte));

/** Each byte as one UTF-16 code unit. */
function spell(bytes: Uint8Array, unitOf: (byte: number) => number): string {
  const units = new Uint8Array(bytes.length * 2);
  for (let at = 0; at < bytes.length; at++) {
    const unit = unitOf(bytes[at]!);
    units[2 * at] = unit & 0xff;
    units[2 * at + 1] = unit >> 8;
  }
  return new TextDecoder("utf-16le", { ignoreBOM: true }).decode(units);
}
