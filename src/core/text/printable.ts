/** Text that can do nothing to a terminal: control characters and what would reorder a line are written as escapes. */
export function printable(text: string): string {
  return text.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]/gu, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`);
}

/**
 * A name as it can be shown: control characters as their pictures, what would reorder the line or cannot be seen as its code,
 * blanks at the ends as open boxes. The link still leads to the name itself.
 */
export function showName(name: string): string {
  return name
    .toWellFormed()
    .replace(/[\x00-\x1f]/g, (c) => String.fromCharCode(0x2400 + c.charCodeAt(0)))
    .replace(/\x7f/g, "\u2421")
    .replace(/[\x80-\x9f\p{Cf}\p{Zl}\p{Zp}]/gu, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`)
    .replace(/^ +| +$/g, (blanks) => "\u2423".repeat(blanks.length));
}
