import { ServerResponse } from "node:http";
import type { BodyPart, ResponsePlan } from "../core/plan.js";
import type { OpenedFile } from "../core/source.js";
import type { Delivery } from "./deliver.js";

/** What is read and written at a time. One piece is read while the one before it is on its way. */
const PIECE_BYTES = 256 * 1024;
const BUFFERS = 2;

// Buffers that a finished delivery left: filling one again costs a third of what new memory does.
const idle: Buffer[] = [];
const IDLE_AT_MOST = 32;

/**
 * Sends a body piece by piece. A piece goes out when the one two before it is gone, so a slow client holds two pieces and no
 * more. Rejects when the file cannot be read; a body that became shorter ends the connection.
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
  const pieces = cutPieces(parts);
  const buffers = reusable ? takeBuffers(Math.min(BUFFERS, pieces.length)) : [];
  const writes: (Promise<void> | undefined)[] = [];

  let ahead = readPiece(file, pieces[0], buffers[0]);
  for (let index = 0; index < pieces.length; index++) {
    const piece = await ahead;
    if (response.destroyed) return { status, bytes, complete: false };
    if (piece.length !== pieces[index]!.length) {
      response.destroy();
      return { status, bytes, complete: false };
    }
    writes[index % BUFFERS] = write(piece);
    bytes += piece.length;
    const slot = (index + 1) % BUFFERS;
    await writes[slot];
    ahead = readPiece(file, pieces[index + 1], buffers[slot]);
    // The read's failure is met when its turn comes.
    ahead.catch(() => {});
  }
  response.end();
  await Promise.all(writes);
  if (response.destroyed && !response.writableFinished) return { status, bytes, complete: false };
  idle.push(...buffers.slice(0, IDLE_AT_MOST - idle.length));
  return { status, bytes, complete: true };
}

function takeBuffers(count: number): Buffer[] {
  return Array.from({ length: count }, () => idle.pop() ?? Buffer.allocUnsafeSlow(PIECE_BYTES));
}

function cutPieces(parts: readonly BodyPart[]): BodyPart[] {
  return parts.flatMap((part) => {
    if (part instanceof Uint8Array) return [part];
    const pieces: BodyPart[] = [];
    for (let done = 0; done < part.length; done += PIECE_BYTES) {
      pieces.push({ offset: part.offset + done, length: Math.min(PIECE_BYTES, part.length - done) });
    }
    return pieces;
  });
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
