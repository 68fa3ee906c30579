import type { FileSource, Found, Look } from "../source.js";

/** The looks at the disk that an answer depends on. */
export class Looks {
  readonly all: Look[] = [];
  /** False once something was looked at that cannot be looked at again in the same way. */
  isComplete = true;
  /** When the youngest of what was found last changed, in milliseconds since the epoch. */
  changedMs = Number.NEGATIVE_INFINITY;

  /** Notes that a name was opened, and what was found. */
  note(source: FileSource, path: string, found: Found): void {
    const look = source.look?.(path, found);
    if (look === undefined) {
      this.isComplete = false;
      return;
    }
    this.add(look);
  }

  add(look: Look): void {
    this.all.push(look);
    this.changedMs = Math.max(this.changedMs, look.changedMs);
  }
}
