import type { BodyPart, ResponsePlan } from "../core/answer/plan.js";
import type { Memory } from "../core/memory/memory.js";
import type { Shelf } from "../core/memory/shelf.js";
import type { OpenedFile } from "../core/source.js";
import { type CutOff, cutOff, type Delivery, SHORTENED, toUnsent, type Unsent } from "./delivery.js";
import type { Outgoing } from "./node-messages.js";

/** A plan, and the body that it sends: parts of a file, or bytes that are at hand. */
export interface PiecePlan extends Pick<ResponsePlan, "status" | "fields"> {
  readonly parts: readonly BodyPart[];
  /** Undefined where all parts are bytes. */
  readonly file: OpenedFile | undefined;
}

/** What is read and written at a time: large for a client that has proved quick, small for every other. */
const LARGE_BYTES = 512 * 1024;
const SMALL_BYTES = 40 * 1024;
/** A client that has taken so much has proved quick: the system's own buffers hold less, even for one that reads nothing. */
const PROVED_BYTES = 8 * 1024 * 1024;
/** A body up to this size is read in one piece: it fits in the system's buffers, where a client's speed does not matter. */
const IN_ONE_UP_TO = 512 * 1024;
/** A piece that takes longer than this lets it is too slow. */
export const LEAST_BYTES_PER_SECOND = 512;
/** A client keeps up when a piece is gone within this time, in milliseconds. */
const KEEPS_UP_MS = 100;
/** A piece that is not gone within this time waits for the client, in milliseconds: the system's buffers are full. */
const STALL_MS = 0.5;
/** How many waits that were over quickly show a client that reads on, too. */
const CLEARED_AT_LEAST = 4;

/** Large buffers that a finished delivery left: reading 256 KiB into one takes 19 µs, and 155 into new memory. */
const IDLE_BUFFERS = {
  name: "buffers to read ahead into",
  bound: 32,
  unit: "entries",
  proof: "they are refilled before they are sent",
} as const;

/** How pieces are sent: where buffers are kept, and how long a client may take nothing. */
export interface PieceOptions {
  readonly memory: Memory;
  /** In milliseconds. */
  readonly stalledAfterMs: number;
}

/**
 * Sends a body piece by piece, one read while the one before it is on its way. A piece is read only when the one two before it is
 * gone, so a client never holds more than two, and small ones until it has proved quick. The head is sent with the first piece: when that cannot be read, nothing
 * was sent. A body that becomes shorter or cannot be read later, and a client that stalls, end the connection.
 */
export async function deliverPieces(
  response: Outgoing,
  { status, fields, file, parts }: PiecePlan,
  { memory, stalledAfterMs }: PieceOptions,
): Promise<Delivery | Unsent> {
  if (response.destroyed) return cutOff(status, 0, "client-left");
  const writer = makeWriter(response, stalledAfterMs);
  const buffers = new PieceBuffers(memory, response.reusesMemory);
  const writes: (Promise<void> | undefined)[] = [];
  const next = makeCutter(parts);
  const total = parts.reduce((sum, { length }) => sum + length, 0);
  let size = total <= IN_ONE_UP_TO ? LARGE_BYTES : SMALL_BYTES;
  let piece = next(size);
  let ahead = readPiece(file, piece, buffers.take(0, size));
  let bytes = 0;
  let cleared = 0;
  try {
    for (let slot = 1; piece !== undefined; slot = 1 - slot) {
      const content = await ahead;
      if (response.destroyed) return cutOff(status, bytes, writer.cause);
      if ("unsent" in content) {
        if (bytes === 0) return content;
        response.destroy();
        return cutOff(status, bytes, content === SHORTENED ? "file-shortened" : "read-failed");
      }
      if (bytes === 0) response.writeHead(status, fields.flat);
      bytes += content.length;
      const started = performance.now();
      writes[1 - slot] = writer.write(content);
      // The other piece's memory is free when that piece is gone.
      await writes[slot];
      const waitedMs = performance.now() - started;
      if (waitedMs >= KEEPS_UP_MS) cleared = 0;
      else if (waitedMs >= STALL_MS) cleared++;
      const isQuick = waitedMs < KEEPS_UP_MS && (cleared >= CLEARED_AT_LEAST || bytes >= PROVED_BYTES);
      size = isQuick ? LARGE_BYTES : SMALL_BYTES;
      piece = next(size);
      if (piece !== undefined) ahead = readPiece(file, piece, buffers.take(slot, size));
    }
    response.end();
    await Promise.all(writes);
    // A client that leaves as soon as it has all may have ended the connection before the response says that it is finished.
    const isSent = response.writableFinished || (response.reusesMemory && writer.goneBytes === bytes);
    if (response.destroyed && !isSent) return cutOff(status, bytes, writer.cause);
    buffers.giveBack();
    return { status, bytes, complete: true };
  } finally {
    writer.stop();
  }
}

/** The two buffers of a delivery, read into by turns. */
class PieceBuffers {
  readonly #idle: Shelf<Buffer>;
  readonly #reuses: boolean;
  readonly #buffers: (Buffer | undefined)[] = [];

  constructor(memory: Memory, reuses: boolean) {
    this.#idle = memory.shelf<Buffer>(IDLE_BUFFERS);
    this.#reuses = reuses;
  }

  /** Memory for a piece of at most this size; undefined where what is written may be kept, so that each piece has its own. */
  take(slot: number, size: number): Buffer | undefined {
    if (!this.#reuses) return undefined;
    const before = this.#buffers[slot];
    if (before !== undefined && before.length >= size) return before;
    const buffer =
      size === LARGE_BYTES
        ? (this.#idle.take() ?? Buffer.allocUnsafeSlow(size))
        : Buffer.allocUnsafeSlow(size);
    this.#buffers[slot] = buffer;
    return buffer;
  }

  /** Large ones are used again by the next delivery. */
  giveBack(): void {
    for (const buffer of this.#buffers) if (buffer?.length === LARGE_BYTES) this.#idle.put(buffer);
  }
}

/** Makes a function that gives the parts of a body one after another, none longer than is asked for. */
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
  file: OpenedFile | undefined,
  piece: BodyPart | undefined,
  buffer: Buffer | undefined,
): Promise<Uint8Array | Unsent> {
  if (piece === undefined || piece instanceof Uint8Array) return piece ?? new Uint8Array(0);
  try {
    const bytes = await file!.read(piece.offset, piece.length, buffer);
    return bytes.length === piece.length ? bytes : SHORTENED;
  } catch (error) {
    return toUnsent(error);
  }
}

interface Writer {
  /** Resolves when the bytes are gone, or the client is. */
  write(bytes: Uint8Array): Promise<void>;
  stop(): void;
  /** Why the connection ended. */
  readonly cause: CutOff;
  /** How many bytes were taken over by the system. */
  readonly goneBytes: number;
}

/** Makes a writer that ends the connection of a client that takes nothing, or next to nothing, for too long. */
function makeWriter(response: Outgoing, stalledAfterMs: number): Writer {
  // Each piece on its way, with the time by which it must be gone.
  const waiting = new Map<() => void, number>();
  let cause: CutOff = "client-left";
  let goneBytes = 0;
  response.onceClosed(() => {
    for (const resolve of waiting.keys()) resolve();
  });
  const cut = (): void => {
    if (response.destroyed) return;
    cause = "client-stalled";
    response.destroy();
  };
  response.onStalled(stalledAfterMs, cut);
  // A client that takes a byte now and then has not stalled, but a whole piece must be gone in time.
  const watch = setInterval(() => {
    const now = performance.now();
    for (const deadline of waiting.values()) if (now > deadline) cut();
  }, stalledAfterMs);
  watch.unref();
  return {
    get cause() {
      return cause;
    },
    get goneBytes() {
      return goneBytes;
    },
    stop: () => clearInterval(watch),
    write: (bytes) =>
      new Promise((resolve) => {
        const slowestMs = Math.max(stalledAfterMs, (bytes.length / LEAST_BYTES_PER_SECOND) * 1000);
        waiting.set(resolve, performance.now() + slowestMs);
        response.write(bytes, (error) => {
          if (!error) goneBytes += bytes.length;
          waiting.delete(resolve);
          resolve();
        });
      }),
  };
}
