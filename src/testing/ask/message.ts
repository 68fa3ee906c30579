import type { FieldLine, Message } from "./ask.js";

/** A response message, read from its bytes (RFC 9112 §4, §5, §6). */
export interface ReadMessage extends Message {
  readonly status: number;
  readonly httpVersion: string;
  readonly lines: readonly FieldLine[];
  readonly body: Buffer;
  /** Its own end has come. */
  readonly isWhole: boolean;
}

/**
 * Reads a response to a request with `method` from the bytes that came. `hasEnded`: no more will come. Undefined while its head is
 * not here, or where it has none. Interim responses (1xx) before it are passed over.
 */
export function readMessage(bytes: Buffer, method: string, hasEnded: boolean): ReadMessage | undefined {
  let rest = bytes;
  for (let interim = 0; interim <= INTERIM_AT_MOST; interim++) {
    const head = readHead(rest);
    if (head === undefined) return undefined;
    const { status, lines, end } = head;
    rest = rest.subarray(end);
    const isInterim = status >= 100 && status < 200 && status !== 101;
    if (!isInterim) return { ...head, ...readBody(rest, { method, status, lines }, hasEnded) };
  }
  return undefined;
}

/** How many interim responses are passed over. */
const INTERIM_AT_MOST = 20;

function readHead(bytes: Buffer) {
  // A lone line feed ends a line, too (RFC 9112 §2.2).
  const start = bytes.subarray(0, 262_144).toString("latin1");
  const match = /\r?\n\r?\n/.exec(start);
  const first = /^HTTP\/(\d\.\d) (\d{3})(?: [^\r\n]*)?\r?\n/.exec(start);
  if (match === null || first === null) return undefined;
  const lines = start
    .slice(first[0].length, match.index)
    .split(/\r?\n/)
    .flatMap((line): FieldLine[] => {
      const colon = line.indexOf(":");
      return colon < 1 || /^[ \t]/.test(line)
        ? []
        : [[line.slice(0, colon).trim(), line.slice(colon + 1).trim()]];
    });
  const end = match.index + match[0].length;
  return { httpVersion: first[1]!, status: Number(first[2]), lines, head: start.slice(0, end), end };
}

interface Framed {
  readonly method: string;
  readonly status: number;
  readonly lines: readonly FieldLine[];
}

type Body = Pick<ReadMessage, "body" | "isWhole" | "excess" | "lacking" | "chunks">;

// RFC 9112 §6.3: how long the body is.
function readBody(rest: Buffer, { method, status, lines }: Framed, hasEnded: boolean): Body {
  const values = (name: string): string[] =>
    lines.filter(([one]) => one.toLowerCase() === name).map(([, value]) => value);
  const whole = (length: number): Body => ({
    body: rest.subarray(0, length),
    isWhole: rest.length >= length,
    excess: Math.max(0, rest.length - length),
    lacking: hasEnded ? Math.max(0, length - rest.length) : 0,
    chunks: undefined,
  });
  // Step 1.
  if (method === "HEAD" || status === 204 || status === 304) return whole(0);
  // Steps 3, 4.
  if (/\bchunked\s*$/i.test(values("transfer-encoding").join(", "))) return readChunks(rest, hasEnded);
  // Step 6.
  const [length] = values("content-length");
  if (length !== undefined && /^\d{1,15}$/.test(length)) return whole(Number(length));
  // Step 8: the connection's end is the body's.
  return { ...whole(rest.length), isWhole: hasEnded };
}

// RFC 9112 §7.1.
function readChunks(rest: Buffer, hasEnded: boolean): Body {
  const pieces: Buffer[] = [];
  const done = (at: number, isWhole: boolean, chunks?: string): Body => ({
    body: Buffer.concat(pieces),
    isWhole,
    excess: isWhole ? rest.length - at : 0,
    lacking: 0,
    chunks: chunks ?? (!isWhole && hasEnded ? "there is no last chunk of size 0" : undefined),
  });
  for (let at = 0; ; ) {
    const end = rest.indexOf("\n", at);
    if (end < 0) return done(at, false);
    const line = rest.subarray(at, end).toString("latin1").trim();
    const size = /^([0-9a-f]{1,12})(?:[ \t]*;.*)?$/i.exec(line)?.[1];
    if (size === undefined) return done(at, true, `an invalid size: ${JSON.stringify(line.slice(0, 40))}`);
    const length = Number.parseInt(size, 16);
    if (length === 0) {
      // Trailers, up to an empty line.
      const last = /^(?:[^\r\n]+\r?\n)*\r?\n/.exec(rest.subarray(end + 1, end + 16_384).toString("latin1"));
      return last === null ? done(at, false) : done(end + 1 + last[0].length, true);
    }
    if (rest.length < end + 1 + length + 2) return done(at, false);
    pieces.push(rest.subarray(end + 1, end + 1 + length));
    const close = rest.subarray(end + 1 + length, end + 3 + length).toString("latin1");
    if (close !== "\r\n") return done(at, true, "one is not followed by a line break");
    at = end + 3 + length;
  }
}
