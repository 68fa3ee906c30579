import { connect as connectPlain, isIP, type Socket } from "node:net";
import { connect as connectTls } from "node:tls";
import { type FieldLine, listSent, type Message, type Reply } from "./ask.js";
import { joinFields } from "./in-process.js";
import { readMessage } from "./message.js";
import { placeOf, type Request } from "./request.js";

/** For how long bytes are waited for that come behind a whole answer, in milliseconds. */
const EXCESS_MS = 120;
/** The longest head that is read, in bytes. */
const HEAD_LIMIT = 262_144;

/**
 * Asks over its own socket and looks at every byte that comes: a client hides what is behind an answer's end, and what is
 * wrong with its lines. The connection is asked to end with the answer. Rejects when there is no answer.
 */
export async function askOverSocket(
  url: URL,
  request: Request,
  { insecureTls, limit }: { readonly insecureTls: boolean; readonly limit: number },
): Promise<Reply> {
  const socket = openSocket(url, insecureTls);
  const stop = (): void => void socket.destroy(request.signal.reason as Error);
  request.signal.addEventListener("abort", stop, { once: true });
  try {
    let started = performance.now();
    // Connecting is no part of how soon it answers.
    socket.once(url.protocol === "https:" ? "secureConnect" : "connect", () => {
      started = performance.now();
    });
    socket.write(formatRequest(url, request), "latin1");
    const { bytes, firstByteAt } = await receive(socket, request.method, limit);
    const message = readMessage(bytes, request.method, true);
    if (message === undefined)
      throw new Error(
        bytes.length === 0
          ? "the connection closed before the answer was complete"
          : `the answer is not HTTP/1.1 (${JSON.stringify(bytes.subarray(0, 40).toString("latin1"))})`,
      );
    return toReply(message, firstByteAt - started);
  } finally {
    request.signal.removeEventListener("abort", stop);
    socket.destroy();
  }
}

/** Every byte until the connection ends, or nothing comes any more behind a whole answer. */
function receive(
  socket: Socket,
  method: string,
  limit: number,
): Promise<{ bytes: Buffer; firstByteAt: number }> {
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = [];
    let [length, firstByteAt] = [0, 0];
    const done = (): void => {
      resolve({ bytes: Buffer.concat(chunks), firstByteAt });
    };
    // A server may leave the connection open all the same.
    socket.setTimeout(EXCESS_MS).on("timeout", () => {
      if (readMessage(Buffer.concat(chunks), method, false)?.isWhole) done();
    });
    socket.on("data", (chunk: Buffer) => {
      if (chunks.length === 0) firstByteAt = performance.now();
      length += chunk.length;
      chunks.push(chunk);
      if (length > limit + HEAD_LIMIT) reject(new Error("the answer is too long to read over a socket"));
    });
    socket.on("error", reject);
    socket.on("close", done);
  });
}

function openSocket(url: URL, insecureTls: boolean): Socket {
  const place = placeOf(url);
  if (url.protocol !== "https:") return connectPlain(place);
  // RFC 6066 §3: an address is no server name.
  const name = isIP(place.host) === 0 ? { servername: place.host } : {};
  return connectTls({ ...place, ...name, rejectUnauthorized: !insecureTls });
}

function formatRequest(url: URL, { method, target, headers, body }: Request): string {
  const names = new Set(Object.keys(headers).map((name) => name.toLowerCase()));
  const own: FieldLine[] = names.has("host") ? [] : [["Host", url.host]];
  const content = body === undefined ? "" : Buffer.from(body).toString("latin1");
  if (body !== undefined && !names.has("content-length"))
    own.push(["Content-Length", String(content.length)]);
  const lines = [...own, ...listSent(headers), ["Connection", "close"] as const];
  return `${method} ${target} HTTP/1.1\r\n${lines.map(([name, value]) => `${name}: ${value}\r\n`).join("")}\r\n${content}`;
}

function toReply(
  { status, httpVersion, lines, body, ...message }: NonNullable<ReturnType<typeof readMessage>>,
  firstByteMilliseconds: number,
): Reply {
  const seen: Message = message;
  return {
    status,
    headers: joinFields(lines),
    body: new Uint8Array(body),
    lines,
    wire: { httpVersion, firstByteMilliseconds, message: seen },
    inside: undefined,
  };
}
