import { splitMembers } from "./grammar.js";

/**
 * True when a field of wishes (`Want-Repr-Digest`, `Want-Content-Digest`: RFC 9530 §4) asks for SHA-256. Its members are integers from 0 to
 * 10; 0 means not wanted. What cannot be read asks for nothing.
 */
export function wantsSha256(field: string | undefined): boolean {
  if (field === undefined) return false;
  for (const member of splitMembers(field, ",")) {
    const [, weight] = /^sha-256=(\d{1,2})$/.exec(member) ?? [];
    if (weight !== undefined) return Number(weight) > 0 && Number(weight) <= 10;
  }
  return false;
}

/** A SHA-256 in base64url as a member of a field (RFC 9530 §2, RFC 8941 §3.3.5). */
export function formatSha256(base64url: string): string {
  const base64 = base64url.replaceAll("-", "+").replaceAll("_", "/");
  return `sha-256=:${base64.padEnd(44, "=")}:`;
}

/** The SHA-256 of a field, in base64url without padding; undefined when it has none. */
export function parseSha256(field: string): string | undefined {
  for (const member of splitMembers(field, ",")) {
    const [, base64] = /^sha-256=:([A-Za-z0-9+/]{43})=:$/.exec(member) ?? [];
    if (base64 !== undefined) return base64.replaceAll("+", "-").replaceAll("/", "_");
  }
  return undefined;
}

const DIGITS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_";

/** A digest in base64url as hexadecimal digits: how lists of digests are written. */
export function toHex(base64url: string): string {
  let [bits, value, hex] = [0, 0, ""];
  for (const letter of base64url) {
    value = (value << 6) | DIGITS.indexOf(letter);
    bits += 6;
    while (bits >= 4) {
      bits -= 4;
      hex += ((value >> bits) & 15).toString(16);
      value &= (1 << bits) - 1;
    }
  }
  return hex;
}
