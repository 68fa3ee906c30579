import { SonicBoom } from "sonic-boom";
import { StartError } from "../server/place.js";

/** How many bytes of a log wait to be written at most: answers are never held up by it. */
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

/**
 * Opens standard output, or a file that lines are added to. `head` is what it begins with each time.
 *
 * @throws {StartError} when the file cannot be opened.
 */
export async function openLogOutput(file: string | undefined, head: () => string): Promise<LogOutput> {
  const destination = new SonicBoom({
    ...(file === undefined ? { dest: 1 } : { dest: file, append: true }),
    sync: false,
    maxLength: WAITING_BYTES,
  });
  await new Promise<void>((resolve, reject) => {
    destination.once("ready", resolve);
    destination.once("error", ({ code, message }: NodeJS.ErrnoException) => {
      const hint =
        code === "ENOENT"
          ? "its folder does not exist: create it, or write another path"
          : "write a path in a folder that this process may write to";
      reject(new StartError(`The log file ${file} cannot be opened (${code ?? message}); ${hint}.`));
    });
  });
  destination.removeAllListeners("error");
  return new Output(destination, file !== undefined, head);
}

class Output implements LogOutput {
  private readonly destination: SonicBoom;
  private readonly isFile: boolean;
  /** Before the file is opened again it is emptied; lines are held meanwhile, since its head goes before them. */
  private phase: "open" | "emptying" | "opening" | "closed" = "open";
  private readonly held: string[] = [];
  private heldBytes = 0;
  /** Lengths in bytes of the texts that wait, the oldest first, and how much of the oldest was written. */
  private readonly waiting: number[] = [];
  private written = 0;
  private lost = 0;
  private hasFailed = false;
  private isEnding = false;

  constructor(destination: SonicBoom, isFile: boolean, head: () => string) {
    this.destination = destination;
    this.isFile = isFile;
    destination.on("write", (bytes: number) => {
      this.written += bytes;
      while (this.waiting.length > 0 && this.written >= this.waiting[0]!)
        this.written -= this.waiting.shift()!;
    });
    destination.on("drop", () => {
      this.waiting.pop();
      this.lost++;
    });
    destination.on("drain", () => {
      if (this.phase === "emptying") this.openAgain();
    });
    destination.on("ready", () => this.goOn(head()));
    // A full disk, or a reader that has gone: the site goes on, and what waits is tried again with the next line.
    destination.on("error", () => {
      this.hasFailed = true;
      if (this.phase === "emptying") this.openAgain();
      // It cannot be opened again: lines go on to where they went.
      else if (this.phase === "opening") this.goOn("");
    });
    this.goOn(head());
  }

  write(line: string): void {
    const text = `${line}\n`;
    if (this.phase === "open") {
      this.put(text);
      return;
    }
    this.heldBytes += Buffer.byteLength(text);
    if (this.phase === "closed" || this.heldBytes > WAITING_BYTES) this.lost++;
    else this.held.push(text);
  }

  reopen(): void {
    // While it is opened, it is opened by the present name already.
    if (!this.isFile || this.phase !== "open") return;
    this.phase = "emptying";
    if (this.waiting.length === 0 || this.hasFailed) this.openAgain();
  }

  takeLost(): number {
    const { lost } = this;
    this.lost = 0;
    return lost;
  }

  close(): Promise<void> {
    return new Promise((resolve) => {
      const end = (): void => {
        clearTimeout(limit);
        this.phase = "closed";
        this.lost += this.waiting.length + this.held.length;
        this.waiting.length = 0;
        this.held.length = 0;
        resolve();
      };
      // What cannot be written by then will not be.
      const limit = setTimeout(() => {
        end();
        this.destination.destroy();
      }, CLOSE_MS);
      this.destination.once("close", end);
      this.isEnding = true;
      if (this.phase === "open") this.destination.end();
    });
  }

  private put(text: string): void {
    this.waiting.push(Buffer.byteLength(text));
    this.hasFailed = false;
    this.destination.write(text);
  }

  private openAgain(): void {
    this.phase = "opening";
    this.destination.reopen();
  }

  private goOn(first: string): void {
    this.phase = "open";
    if (first !== "") this.put(first);
    this.heldBytes = 0;
    for (const text of this.held.splice(0)) this.put(text);
    if (this.isEnding) this.destination.end();
  }
}
