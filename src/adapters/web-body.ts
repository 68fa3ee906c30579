import type { BodyPart } from "../core/answer/plan.js";
import type { OpenedFile } from "../core/source.js";
import { toUnsent, type Unsent } from "./delivery.js";

/** What is read of a file at a time, in bytes. */
const PIECE_BYTES = 64 * 1024;

/** How a body is read, and when it is given up. */
export interface WebBodyOptions {
  /** Closes the file when it is aborted. */
  readonly signal: AbortSignal;
  /** For how long a consumer may ask for nothing, in milliseconds. */
  readonly stalledAfterMs: number;
}

/**
 * A body as a Fetch response takes it: its bytes where one piece is all of it, and a stream otherwise. Owns the file from the call
 * on. It is closed once: when the body was read to its end, cancelled, aborted or cannot be read, when nobody asks for more of it
 * in time, and when nobody could any more. The first piece is read at once, so that a failure can still be told.
 */
export async function toWebBody(
  file: OpenedFile,
  parts: readonly BodyPart[],
  options: WebBodyOptions,
): Promise<ReadableStream<Uint8Array> | Uint8Array | Unsent> {
  const hold = new Hold(file, options);
  const readNext = makeReader(file, parts);
  let first: Piece;
  try {
    first = await readNext();
  } catch (error) {
    hold.letGo();
    return toUnsent(error);
  }
  if (first.isLast) {
    hold.letGo();
    return first.bytes;
  }
  return makeStream(hold, first, readNext);
}

function makeStream(hold: Hold, first: Piece, readNext: () => Promise<Piece>): ReadableStream<Uint8Array> {
  let ahead: Piece | undefined = first;
  const stream = new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        hold.expect();
        try {
          const { bytes, isLast } = ahead ?? (await readNext());
          ahead = undefined;
          controller.enqueue(bytes);
          if (!isLast) return;
          hold.letGo();
          controller.close();
        } catch (error) {
          hold.letGo();
          throw hold.isStalled
            ? new Error("Nobody read the body for too long, so its file was closed.")
            : error;
        }
      },
      cancel: () => hold.letGo(),
    },
    { highWaterMark: 0 },
  );
  FORGOTTEN.register(stream, hold);
  return stream;
}

// A response that is dropped unread is told by nothing else, before its time is up.
const FORGOTTEN = new FinalizationRegistry<Hold>((hold) => hold.letGo());

/** The file of a body while somebody may ask for it. Knows nothing of the stream, which can be forgotten so. */
class Hold {
  readonly #file: OpenedFile;
  readonly #signal: AbortSignal;
  readonly #stalledAfterMs: number;
  readonly #letGo = (): void => this.letGo();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #isOpen = true;
  isStalled = false;

  constructor(file: OpenedFile, { signal, stalledAfterMs }: WebBodyOptions) {
    this.#file = file;
    this.#signal = signal;
    this.#stalledAfterMs = stalledAfterMs;
    signal.addEventListener("abort", this.#letGo);
    this.expect();
  }

  /** Waits again for the next time that more is asked for. */
  expect(): void {
    clearTimeout(this.#timer);
    if (!this.#isOpen) return;
    this.#timer = setTimeout(() => {
      this.isStalled = true;
      this.letGo();
    }, this.#stalledAfterMs);
    // A timer of Node's keeps no process alive for this; those of other platforms never do.
    (this.#timer as { unref?: () => void }).unref?.();
  }

  letGo(): void {
    if (!this.#isOpen) return;
    this.#isOpen = false;
    clearTimeout(this.#timer);
    this.#signal.removeEventListener("abort", this.#letGo);
    this.#file.close();
  }
}

interface Piece {
  readonly bytes: Uint8Array;
  readonly isLast: boolean;
}

/** Makes a function that reads one piece after the other. It rejects when the file is shorter than its parts say. */
function makeReader(file: OpenedFile, parts: readonly BodyPart[]): () => Promise<Piece> {
  let [index, done] = [0, 0];
  return async () => {
    const part = parts[index];
    if (part === undefined || part.length === 0) return { bytes: new Uint8Array(0), isLast: true };
    const length = Math.min(PIECE_BYTES, part.length - done);
    const bytes =
      part instanceof Uint8Array
        ? part.subarray(done, done + length)
        : await file.read(part.offset + done, length);
    if (bytes.length !== length) throw new Error("The file became shorter while it was sent.");
    done += length;
    if (done === part.length) [index, done] = [index + 1, 0];
    return { bytes, isLast: index === parts.length };
  };
}
