import { ServerResponse } from "node:http";
import type { BodyPart, ResponsePlan } from "../core/answer/plan.js";
import type { OpenedFile } from "../core/source.js";

/** How an answer ended: the bytes of the body that were handed over, and whether it was sent to its end. */
export interface Delivery {
  readonly status: number;
  readonly bytes: number;
  readonly complete: boolean;
}

/** What is read and written at a time: large for a client that keeps up, small for the first piece and for a slow client. */
const LARGE_BYTES = 512 * 1024;
const SMALL_BYTES = 64 * 1024;
/** A client keeps up when a piece is gone within this time, in milliseconds. */
const KEEPS_UP_MS = 100;

// Large buffers that a finished delivery left: filling one again costs a third of what new memory does.
const idle: Buffer[] = [];
const IDLE_AT_MOST = 32;

/**
 * Sends a body piece by piece, one read while the one before it is on its way. A piece is read only when the one two before
 * it is gone, so a client never holds more than two. Rejects when the file cannot be read; a body that became shorter ends
 * the connection.
 */
export async function deliverPieces(
  response: ServerResponse,
  plan: ResponsePlan,
  file: OpenedFile,
  parts: readonly BodyPart[],
): Promise<Delivery> {
  const { status } = plan;
  let bytes = 0;
  if (response.destroyed) return { status, bytes, complete: false };
  response.writeHead(status, plan.fields as string[]);

  const write = makeWriter(response);
  // Whoever replaced `write` may keep what is written, so it gets memory of its own.
  const reusable = response.write === ServerResponse.prototype.write;
  const buffers: (Buffer | undefined)[] = [];
  const writes: (Promise<void> | undefined)[] = [];
  const next = makeCutter(parts);

  const total = parts.reduce((sum, { length }) => sum + length, 0);
  const inOne = total <= LARGE_BYTES;
  if (inOne && reusable) buffers[0] = takeBuffer();
  let piece = next(inOne ? LARGE_BYTES : SMALL_BYTES);
  let ahead = readPiece(file, piece, buffers[0]);
  for (let slot = 1; piece !== undefined; slot = 1 - slot) {
    const content = await ahead;
    if (response.destroyed) return { status, bytes, complete: false };
    if (content.length !== piece.length) {
      response.destroy();
      return { status, bytes, complete: false };
    }
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
    // The read's failure is met when its turn comes.
    ahead.catch(() => {});
  }
  response.end();
  await Promise.all(writes);
  if (response.destroyed && !response.writableFinished) return { status, bytes, complete: false };
  idle.push(...buffers.filter((buffer) => buffer !== undefined).slice(0, IDLE_AT_MOST - idle.length));
  return { status, bytes, complete: true };
}

const takeBuffer = (): Buffer => idle.pop() ?? Buffer.allocUnsafeSlow(LARGE_BYTES);

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

async function readPiece(
  file: OpenedFile,
  piece: BodyPart | undefined,
  buffer: Buffer | undefined,
): Promise<Uint8Array> {
  if (piece === undefined || piece instanceof Uint8Array) return piece ?? new Uint8Array(0);
  return file.read(piece.offset, piece.length, buffer);
}

/** Makes a function that writes and resolves when the bytes are gone, or the client is. */
function makeWriter(response: ServerResponse): (bytes: Uint8Array) => Promise<void> {
  const waiting = new Set<() => void>();
  response.once("close", () => {
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
