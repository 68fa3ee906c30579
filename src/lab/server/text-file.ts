import { randomUUID } from "node:crypto";
import { readFile, rename, rm, writeFile } from "node:fs/promises";
import { shorten } from "../../config/config-file.js";
import type { Saved } from "../shapes.js";

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

  /** Reads it again. True where it is another one than before. */
  async refresh(): Promise<boolean> {
    const before = this.#known;
    this.#known = await readIfThere(this.path);
    return before !== this.#known;
  }

  /** Writes it whole or not at all. What somebody else wrote meanwhile is not written over. */
  async save(text: string): Promise<Saved> {
    const now = await readIfThere(this.path);
    if (now !== this.#known)
      return {
        ok: false,
        problem: `${shorten(this.path)} was changed by somebody else meanwhile, so nothing was saved. Copy your text, and load the page again.`,
      };
    const beside = `${this.path}.${randomUUID().slice(0, 8)}.new`;
    try {
      await writeFile(beside, text, { flag: "wx" });
      await rename(beside, this.path);
    } catch (error) {
      await rm(beside, { force: true });
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
