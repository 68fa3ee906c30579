/** The media type of a Content-Type field (RFC 9110 §8.3.1), without parameters and in lower case. */
export function mediaTypeOf(contentType: string): string {
  const end = contentType.indexOf(";");
  return (end < 0 ? contentType : contentType.slice(0, end)).trim().toLowerCase();
}

/** The charset that a Content-Type field names (RFC 9110 §8.3.2); undefined when it names none. */
export function charsetOf(contentType: string): string | undefined {
  return /;[ \t]*charset=(?:"([^"]*)"|([^";\s]+))/i.exec(contentType)?.slice(1).find(Boolean);
}
