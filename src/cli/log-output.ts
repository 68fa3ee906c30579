import { pino } from "pino";

/** So many bytes of a log wait to be written at most: answers are never held up by it. */
const WAITING_BYTES = 4 * 1024 * 1024;

/** How long what waits may take to be written when the log is closed, in milliseconds. */
const CLOSE_MS = 2000;

/** Where the lines of a log go. */
export interface LogOutput {
  write(line: string): void;
  /** Opens the file again by its name, after somebody has moved it away. */
  reopen(): void;
  /** How many lines were lost since the last call: they could not be written, or not fast enough. */
  takeLost(): number;
  /** Writes what waits. */
  close(): Promise<void>;
}

/** Opens standard output, or a file that lines are added to. `head` is what it begins with each time. */
export function openLogOutput(file: string | undefined, head: () => string): LogOutput {
  const destination = pino.destination({
    ...(file === undefined ? { dest: 1 } : { dest: file, append: true, mkdir: true }),
    sync: false,
    minLength: 0,
    maxLength: WAITING_BYTES,
  });
  let lost = 0;
  /** Lengths in bytes of the texts that wait, the oldest first, and how much of the oldest was written. */
  const waiting: number[] = [];
  let written = 0;
  const put = (text: string): void => {
    waiting.push(Buffer.byteLength(text));
    destination.write(text);
  };
  destination.on("write", (bytes: number) => {
    written += bytes;
    while (waiting.length > 0 && written >= waiting[0]!) written -= waiting.shift()!;
  });
  destination.on("drop", () => {
    waiting.pop();
    lost++;
  });
  // A full disk, or a reader that has gone: the site goes on, and what waits is tried again with the next line.
  destination.on("error", () => {});
  const begin = (): void => {
    const text = head();
    if (text !== "") put(text);
  };
  destination.once("ready", begin);
  return {
    write: (line) => put(`${line}\n`),
    reopen() {
      if (file === undefined) return;
      destination.once("ready", begin);
      destination.reopen();
    },
    takeLost() {
      const now = lost;
      lost = 0;
      return now;
    },
    close: () =>
      new Promise((resolve) => {
        const end = (): void => {
          clearTimeout(limit);
          lost += waiting.length;
          waiting.length = 0;
          resolve();
        };
        // What cannot be written by then will not be.
        const limit = setTimeout(() => {
          end();
          destination.destroy();
        }, CLOSE_MS);
        destination.once("close", end);
        destination.end();
      }),
  };
}
