import { isToken } from "../fields/grammar.js";

/** How much of a text is looked at for what it says of its own charset (HTML §4.2.5.4: the first 1024 bytes), in bytes. */
export const CHARSET_BYTES = 1024;

/** A charset that a text names itself, and where. */
export interface OwnCharset {
  readonly charset: string;
  readonly because: string;
}

/**
 * The charset that a text's first bytes say it is in: by a byte order mark (Encoding Standard §6), an XML declaration (XML 1.0
 * §2.8), an `@charset` rule (CSS Syntax §3.2) or a page's `meta` (HTML §13.2.3.2). Undefined when they say nothing. What
 * is behind the first CHARSET_BYTES is not looked at.
 */
export function readCharset(mediaType: string, start: Uint8Array): OwnCharset | undefined {
  if (startsWith(start, 0xef, 0xbb, 0xbf)) return { charset: "utf-8", because: "its byte order mark" };
  // RFC 2781 §4.3: the mark says in which order the bytes are.
  if (startsWith(start, 0xfe, 0xff) || startsWith(start, 0xff, 0xfe))
    return { charset: "utf-16", because: "its byte order mark" };
  const declared = readDeclaration(mediaType, latin1(start.subarray(0, CHARSET_BYTES)));
  return declared !== undefined && isToken(declared.charset)
    ? { ...declared, charset: declared.charset.toLowerCase() }
    : undefined;
}

function readDeclaration(mediaType: string, text: string): OwnCharset | undefined {
  const xml = /^<\?xml[ \t\r\n][^>]*?encoding[ \t\r\n]*=[ \t\r\n]*["']([^"'>]+)["']/.exec(text)?.[1];
  if (xml !== undefined) return { charset: xml, because: "its XML declaration" };
  if (mediaType === "text/css") {
    const css = /^@charset "([^"]+)";/.exec(text)?.[1];
    return css === undefined ? undefined : { charset: css, because: "its @charset rule" };
  }
  if (mediaType !== "text/html") return undefined;
  const meta = findMeta(text);
  return meta === undefined ? undefined : { charset: meta, because: "its meta element" };
}

// HTML §13.2.3.2, "prescan a byte stream": a meta element outside of comments. Departs: attributes in any order are read by a
// pattern, and a page that declares UTF-16 in ASCII letters is left to the standard's own step (it means UTF-8).
function findMeta(text: string): string | undefined {
  const page = text.replace(/<!--.*?(?:-->|$)/gs, "");
  for (const [element] of page.matchAll(/<meta[\s/][^>]*>/gi)) {
    const charset = /[\s"'/]charset\s*=\s*["']?\s*([^"'\s/>;]+)/i.exec(element)?.[1];
    if (charset !== undefined) return /^utf-16/i.test(charset) ? "utf-8" : charset;
  }
  return undefined;
}

function startsWith(bytes: Uint8Array, ...start: number[]): boolean {
  return start.every((byte, i) => bytes[i] === byte);
}

function latin1(bytes: Uint8Array): string {
  return String.fromCharCode.apply(undefined, bytes as unknown as number[]);
}
