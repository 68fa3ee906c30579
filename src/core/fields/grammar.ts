/** The productions that header fields share (RFC 9110 §5.6, §12.4.2), each once. All are linear in the text. */

/** RFC 9110 §5.6.2: the characters of a token, as the inside of a character class. */
export const TCHAR = "!#$%&'*+\\-.^_`|~0-9A-Za-z";

const TOKEN = new RegExp(`^[${TCHAR}]+$`);

/** True for a token (RFC 9110 §5.6.2): a field name, a method, a directive, half of a media range. */
export function isToken(text: string): boolean {
  return TOKEN.test(text);
}

/**
 * The members of a list (RFC 9110 §5.6.1), or of one member's parameters (§5.6.6), without the white space around them. A
 * separator inside a quoted string (§5.6.4) separates nothing; a string without an end goes to the end of the text.
 */
export function splitMembers(text: string, separator: "," | ";"): string[] {
  if (!text.includes('"')) return text.split(separator).map(trimBlanks);
  const members: string[] = [];
  let start = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const character = text[i];
    if (quoted && character === "\\") i++;
    else if (character === '"') quoted = !quoted;
    else if (character === separator && !quoted) {
      members.push(trimBlanks(text.slice(start, i)));
      start = i + 1;
    }
  }
  members.push(trimBlanks(text.slice(start)));
  return members;
}

// RFC 9110 §5.6.3: optional white space is blanks and tabs, and nothing else.
function trimBlanks(text: string): string {
  let [start, end] = [0, text.length];
  while (start < end && isBlank(text.charCodeAt(start))) start++;
  while (end > start && isBlank(text.charCodeAt(end - 1))) end--;
  return text.slice(start, end);
}

const isBlank = (code: number): boolean => code === 0x20 || code === 0x09;

const WEIGHT = /^q=(0(?:\.\d{0,3})?|1(?:\.0{0,3})?)$/i;

/** A weight from 0 to 1 (RFC 9110 §12.4.2), of the parameter `q=…`; undefined when the parameter is none. */
export function readWeight(parameter: string): number | undefined {
  const match = WEIGHT.exec(parameter);
  return match === null ? undefined : Number(match[1]);
}

/** A field name as people write it: `content-type` is `Content-Type`. Names mean the same in any case (RFC 9110 §5.1). */
export function formatFieldName(name: string): string {
  if (name === "etag") return "ETag";
  return name.replace(/(?:^|-)[a-z]/g, (start) => start.toUpperCase());
}
