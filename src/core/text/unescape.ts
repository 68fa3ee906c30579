/** Undoes percent escapes (RFC 3986 §2.1). A text with an invalid escape is left unchanged: a page may name anything. */
export function unescapeText(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
