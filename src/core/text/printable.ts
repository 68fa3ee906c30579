/** Text that can do nothing to a terminal: control characters and what would reorder a line are written as escapes. */
export function printable(text: string): string {
  return text.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]/gu, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`);
}

/** JSON that can do nothing to a terminal either: what JSON lets stand as it is, is escaped too. It means the same. */
export function printableJson(value: unknown, indent?: number): string {
  const spell = (unit: string): string => `\\u${unit.charCodeAt(0).toString(16).padStart(4, "0")}`;
  return JSON.stringify(value, undefined, indent).replace(/[\x7f-\x9f\p{Cf}\p{Zl}\p{Zp}]/gu, (c) =>
    c.split("").map(spell).join(""),
  );
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
