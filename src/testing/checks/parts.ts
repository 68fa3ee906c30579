/** One part of a multipart/byteranges body. */
export interface BodyPart {
  /** By lower-case name. */
  readonly headers: Readonly<Record<string, string>>;
  readonly bytes: Uint8Array;
}

/** The longest boundary that is allowed (RFC 2046 §5.1.1), in characters. */
const BOUNDARY_LENGTH = 70;

/** The boundary that a Content-Type names; undefined where it is no multipart type, or names none. */
export function readBoundary(contentType: string): string | undefined {
  const match = /^multipart\/byteranges\b[\s\S]*?;\s*boundary=(?:"([^"]{1,200})"|([^\s;,"]+))/i.exec(
    contentType,
  );
  const boundary = match?.[1] ?? match?.[2];
  return boundary !== undefined && boundary.length <= BOUNDARY_LENGTH ? boundary : undefined;
}

/** Reads a body of several parts (RFC 9110 §14.6, RFC 2046 §5.1), or says what is wrong with it. */
export function readParts(body: Uint8Array, boundary: string): { parts: BodyPart[] } | { problem: string } {
  const bytes = Buffer.from(body.buffer, body.byteOffset, body.byteLength);
  const mark = `--${boundary}`;
  const parts: BodyPart[] = [];
  let at = bytes.indexOf(mark);
  if (at < 0) return { problem: `no part begins with the boundary ${JSON.stringify(boundary)}` };
  for (;;) {
    at += mark.length;
    if (bytes.toString("latin1", at, at + 2) === "--") return { parts };
    const lineEnd = bytes.indexOf("\r\n", at);
    const headEnd = bytes.indexOf("\r\n\r\n", lineEnd);
    if (lineEnd < 0 || headEnd < 0)
      return { problem: `the part ${parts.length + 1} has no end of its fields` };
    const next = bytes.indexOf(`\r\n${mark}`, headEnd + 2);
    if (next < 0)
      return {
        problem: `the closing boundary after ${parts.length + 1} ${parts.length === 0 ? "part" : "parts"} is not there: it has no end`,
      };
    const head = headEnd === lineEnd ? "" : bytes.toString("latin1", lineEnd + 2, headEnd);
    parts.push({ headers: readFields(head), bytes: bytes.subarray(Math.min(headEnd + 4, next), next) });
    at = next + 2;
  }
}

function readFields(head: string): Record<string, string> {
  return Object.fromEntries(
    head.split("\r\n").flatMap((line) => {
      const colon = line.indexOf(":");
      return colon < 1 ? [] : [[line.slice(0, colon).trim().toLowerCase(), line.slice(colon + 1).trim()]];
    }),
  );
}
