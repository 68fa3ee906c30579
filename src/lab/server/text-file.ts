import { randomUUID } from "node:crypto";
import { chmod, chown, readFile, realpath, rename, rm, stat, writeFile } from "node:fs/promises";
import { shorten } from "../../config/config-file.js";
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

// A new file takes the place of the old one, with what was set for that. Nobody else may read it before.
async function writeWhole(path: string, text: string): Promise<void> {
  const target = await realpath(path).catch(() => path);
  const before = await stat(target).catch(() => undefined);
  const beside = `${target}.${randomUUID().slice(0, 8)}.new`;
  try {
    await writeFile(beside, text, { flag: "wx", mode: before === undefined ? 0o666 : 0o600 });
    if (before !== undefined) {
      // Only some may give a file away: then it is whose lab it is.
      await chown(beside, before.uid, before.gid).catch(() => {});
      await chmod(beside, before.mode & 0o7777);
    }
    await rename(beside, target);
  } catch (error) {
    await rm(beside, { force: true });
    throw error;
  }
}

async function readIfThere(path: string): Promise<string | undefined> {
  return readFile(path, "utf8").catch((error: NodeJS.ErrnoException) => {
    if (error.code === "ENOENT") return undefined;
    throw error;
  });
}
