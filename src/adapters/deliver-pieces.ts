import type { BodyPart, BodyPlan, ResponsePlan } from "../core/answer/plan.js";
import type { Memory } from "../core/memory/memory.js";
import type { OpenedFile } from "../core/source.js";
import { cutOff, type Delivery, SHORTENED, toUnsent, type Unsent } from "./delivery.js";
import type { Outgoing } from "./node-messages.js";

/** A plan that sends a file. */
export type FilePlan = ResponsePlan & { readonly body: Extract<BodyPlan, { kind: "file" }> };

/** What is read and written at a time: large for a client that keeps up, small for the first piece and for a slow client. */
const LARGE_BYTES = 512 * 1024;
const SMALL_BYTES = 64 * 1024;
/** A client keeps up when a piece is gone within this time, in milliseconds. */
const KEEPS_UP_MS = 100;

/** Large buffers that a finished delivery left: reading 256 KiB into one takes 19 µs, and 155 into new memory. */
const IDLE_BUFFERS = {
  name: "buffers to read ahead into",
  bound: 32,
  unit: "entries",
  proof: "they are filled anew before they are sent",
} as const;

/**
 * Sends a body piece by piece, one read while the one before it is on its way. A piece is read only when the one two before
 * it is gone, so a client never holds more than two. The head is sent with the first piece: when that cannot be read, nothing
 * was sent. A body that becomes shorter or cannot be read later ends the connection.
 */
export async function deliverPieces(
  response: Outgoing,
  { status, fields, body: { file, parts } }: FilePlan,
  memory: Memory,
): Promise<Delivery | Unsent> {
  const idle = memory.shelf<Buffer>(IDLE_BUFFERS);
  const takeBuffer = (): Buffer => idle.take() ?? Buffer.allocUnsafeSlow(LARGE_BYTES);
  if (response.destroyed) return cutOff(status, 0, "client-left");

  const write = makeWriter(response);
  const reusable = response.reusesMemory;
  const buffers: (Buffer | undefined)[] = [];
  const writes: (Promise<void> | undefined)[] = [];
  const next = makeCutter(parts);

  const total = parts.reduce((sum, { length }) => sum + length, 0);
  const inOne = total <= LARGE_BYTES;
  if (inOne && reusable) buffers[0] = takeBuffer();
  let piece = next(inOne ? LARGE_BYTES : SMALL_BYTES);
  let ahead = readPiece(file, piece, buffers[0]);
  let bytes = 0;
  for (let slot = 1; piece !== undefined; slot = 1 - slot) {
    const content = await ahead;
    if (response.destroyed) return cutOff(status, bytes, "client-left");
    if ("unsent" in content) {
      if (bytes === 0) return content;
      response.destroy();
      return cutOff(status, bytes, content === SHORTENED ? "file-shortened" : "read-failed");
    }
    if (bytes === 0) response.writeHead(status, fields.flat);
    bytes += content.length;
    const started = performance.now();
    writes[1 - slot] = write(content);
    // The other piece's memory is free when that piece is gone.
    await writes[slot];
    const keepsUp = performance.now() - started < KEEPS_UP_MS;
    piece = next(keepsUp ? LARGE_BYTES : SMALL_BYTES);
    if (piece === undefined) break;
    if (keepsUp && reusable) buffers[slot] ??= takeBuffer();
    ahead = readPiece(file, piece, keepsUp ? buffers[slot] : undefined);
  }
  response.end();
  await Promise.all(writes);
  if (response.destroyed && !response.writableFinished) return cutOff(status, bytes, "client-left");
  for (const buffer of buffers) if (buffer !== undefined) idle.put(buffer);
  return { status, bytes, complete: true };
}

/** Makes a function that gives the parts of a body one after the other, none longer than is asked for. */
function makeCutter(parts: readonly BodyPart[]): (atMost: number) => BodyPart | undefined {
  let index = 0;
  let done = 0;
  return (atMost) => {
    const part = parts[index];
    if (part === undefined) return undefined;
    const start = done;
    const length = Math.min(atMost, part.length - start);
    done += length;
    if (done === part.length) [index, done] = [index + 1, 0];
    if (part instanceof Uint8Array) return part.subarray(start, start + length);
    return { offset: part.offset + start, length };
  };
}

// Never rejects: a failure is met when its turn comes.
async function readPiece(
  file: OpenedFile,
  piece: BodyPart | undefined,
  buffer: Buffer | undefined,
): Promise<Uint8Array | Unsent> {
  if (piece === undefined || piece instanceof Uint8Array) return piece ?? new Uint8Array(0);
  try {
    const bytes = await file.read(piece.offset, piece.length, buffer);
    return bytes.length === piece.length ? bytes : SHORTENED;
  } catch (error) {
    return toUnsent(error);
  }
}

/** Makes a function that writes and resolves when the bytes are gone, or the client is. */
function makeWriter(response: Outgoing): (bytes: Uint8Array) => Promise<void> {
  const waiting = new Set<() => void>();
  response.onceClosed(() => {
    for (const resolve of waiting) resolve();
  });
  return (bytes) =>
    new Promise((resolve) => {
      waiting.add(resolve);
      response.write(bytes, () => {
        waiting.delete(resolve);
        resolve();
      });
    });
}
