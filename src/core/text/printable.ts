/** Text that can do nothing to a terminal: control characters and what would reorder a line are written as escapes. */
export function printable(text: string): string {
  return text.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]/gu, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`);
}

/**
 * A name as it can be shown: control characters as their pictures, what would reorder the line or cannot be seen as its code,
 * blanks at the ends as open boxes. The link still leads to the name itself.
 */
export function showName(name: string): string {
  let [start, end] = [0, name.length];
  while (name[start] === " ") start++;
  while (end > start && name[end - 1] === " ") end--;
  const shown = name
    .slice(start, end)
    .toWellFormed()
    .replace(/[\x00-\x1f]/g, (c) => String.fromCharCode(0x2400 + c.charCodeAt(0)))
    .replace(/\x7f/g, "\u2421")
    .replace(/[\x80-\x9f\p{Cf}\p{Zl}\p{Zp}]/gu, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`);
  return BLANK.repeat(start) + shown + BLANK.repeat(name.length - end);
}

const BLANK = "\u2423";
