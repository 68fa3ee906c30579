/**
 * True for a file name that bundlers made: it ends, before its extensions, in a fingerprint of the content, so that other
 * content has another name. A fingerprint is, behind a dot or a dash or as the whole name:
 *
 * - hexadecimal, 8 to 64 long, with at least two changes between letters and digits (`app.5f3a91bc.js`);
 * - 8 characters of A-Z and 2-7 with at least two such changes (`chunk-4NVF7MPA.js`);
 * - 8 characters of A-Z, 0-9 and `_` with at least three (`index-B_X3YMQ8.js`);
 * - 8 to 32 of letters, digits, `-` and `_` in mixed case (`index-Dct7elz_.css`), unless it reads as words and numbers.
 *
 * What reads as words, numbers, dates or versions is none (`report-overview`, `app-2026-11-25`, `lib-1.24.0`, `Season-2`): a
 * name taken for a fingerprint by mistake would be kept for a year, one that is missed is only asked for again.
 */
export function isFingerprinted(path: string): boolean {
  const name = path.slice(path.lastIndexOf("/") + 1);
  const stem = name.replace(
    /(?:\.(?:min|module|legacy|LICENSE))?\.[A-Za-z][A-Za-z0-9]{0,9}(?:\.(?:map|br|gz|txt))?$/,
    "",
  );
  if (stem === name || stem === "") return false;
  // Eight characters of base64url may hold a dash themselves, so that length is looked at first.
  const last8 = /(?:^|[-.])([\w-]{8})$/.exec(stem)?.[1];
  const token = stem.slice(Math.max(stem.lastIndexOf("."), stem.lastIndexOf("-")) + 1);
  return isFingerprint(token) || (last8 !== undefined && isFingerprint(last8));
}

function isFingerprint(token: string): boolean {
  if (/^[0-9a-f]{8,64}$/.test(token)) return countChanges(token) >= 2;
  if (/^[A-Z2-7]{8}$/.test(token)) return countChanges(token) >= 2;
  if (/^[A-Z0-9_]{8}$/.test(token)) return countChanges(token) >= 3;
  if (!/^[\w-]{8,32}$/.test(token) || !/[a-z]/.test(token) || !/[A-Z]/.test(token)) return false;
  // Four words in eight letters are none.
  if (/^(?:[A-Z][a-z]){4}$/.test(token)) return true;
  return !token.split(/[-_]/).every((piece) => WORDLIKE.test(piece));
}

// A word, words run together in camel case, an abbreviation with a word before or behind it; a number, also behind a word.
const WORDLIKE = /^(?:[A-Z]?[a-z]+(?:[A-Z][a-z]+)*|[A-Z]{2,}[a-z]*|[a-z]+[A-Z]{2,})?\d*$/;

/** How often a text goes from letters to digits or back. */
function countChanges(text: string): number {
  return (text.match(/\d(?=\D)|\D(?=\d)/g) ?? []).length;
}
