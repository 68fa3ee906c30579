import { readFile } from "node:fs/promises";
import { shorten } from "../../config/config-file.js";
import { writeWhole } from "../../site/write-whole.js";
import type { Edited, Saved } from "../shapes.js";

/** A text file that is edited in the lab, and perhaps elsewhere at the same time. */
export class TextFile {
  readonly path: string;
  /** As it was when it was last read or saved here; undefined where there was none. */
  #known: string | undefined;

  constructor(path: string, known: string | undefined) {
    this.path = path;
    this.#known = known;
  }

  static async open(path: string): Promise<TextFile> {
    return new TextFile(path, await readIfThere(path));
  }

  get text(): string | undefined {
    return this.#known;
  }

  /** Reads it again. */
  async refresh(): Promise<void> {
    this.#known = await readIfThere(this.path);
  }

  /**
   * Writes it whole or not at all, if it still says what the text was made from. A link stays a link, and the file keeps its
   * permissions.
   */
  async save({ text, base }: Edited): Promise<Saved> {
    const now = await readIfThere(this.path);
    this.#known = now;
    if (now !== (base ?? undefined))
      return {
        ok: false,
        isOther: true,
        problem: `${shorten(this.path)} was changed by somebody else meanwhile, so nothing was saved. Your text is still here: compare it with the file.`,
      };
    try {
      await writeWhole(this.path, text);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      return {
        ok: false,
        problem: `${shorten(this.path)} cannot be written (${code}); check its permissions.`,
      };
    }
    this.#known = text;
    return { ok: true };
  }
}

async function readIfThere(path: string): Promise<string | undefined> {
  return readFile(path, "utf8").catch((error: NodeJS.ErrnoException) => {
    if (error.code === "ENOENT") return undefined;
    throw error;
  });
}
