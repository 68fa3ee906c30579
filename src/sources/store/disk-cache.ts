import { randomUUID } from "node:crypto";
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import { join } from "node:path";

/** What a cache on disk may take, and whom it tells of a disk that fails. */
export interface DiskCacheOptions {
  readonly folder: string;
  /** All files together, in bytes. */
  readonly bound: number;
  readonly tell: (text: string) => void;
}

/** A disk that failed is left alone for this long, in milliseconds. */
const REST_MS = 60_000;
/** What is not finished after this time was left by a process that was killed, in milliseconds. */
const LEFT_MS = 3_600_000;
/** Other processes may fill the same folder: it is counted again when this part of the bound was written. */
const COUNT_AFTER = 1 / 16;

/**
 * Bytes of a release store on a disk of this machine, under their SHA-256. What is given is not verified: whoever takes it does that. A
 * disk that is full or broken is told once a minute, and gone around. Never rejects.
 */
export class DiskCache {
  readonly #options: DiskCacheOptions;
  /** Names with their bytes, the one that was wanted last at the end. */
  readonly #entries = new Map<string, number>();
  #bytes = 0;
  #writtenSinceCount = 0;
  #restsUntil = 0;
  #counting: Promise<void> | undefined;

  constructor(options: DiskCacheOptions) {
    this.#options = options;
  }

  /** All its files together, in bytes, as far as this process knows. */
  get bytes(): number {
    return this.#bytes;
  }

  has(name: string): boolean {
    return this.#entries.has(name);
  }

  get bound(): number {
    return this.#options.bound;
  }

  /** Begins to count what is there from before; nothing waits for it. */
  open(): void {
    void this.#count();
  }

  async read(name: string, length: number): Promise<Uint8Array | undefined> {
    // It may be there from before, or from another process, and not be counted yet.
    try {
      const bytes = await readFile(this.#pathOf(name));
      if (bytes.length !== length) {
        await this.remove(name);
        return undefined;
      }
      this.#note(name, length);
      return bytes;
    } catch (error) {
      this.#forget(name);
      if ((error as NodeJS.ErrnoException).code !== "ENOENT") this.#rest("read", error);
      return undefined;
    }
  }

  async write(name: string, bytes: Uint8Array): Promise<void> {
    if (this.#entries.has(name) || bytes.length > this.bound || Date.now() < this.#restsUntil) return;
    const path = this.#pathOf(name);
    const beside = `${path}.${randomUUID().slice(0, 8)}.new`;
    try {
      this.#note(name, bytes.length);
      await this.#makeRoom();
      await mkdir(join(this.#options.folder, name.slice(0, 2)), { recursive: true });
      await writeFile(beside, bytes, { flag: "wx" });
      await rename(beside, path);
      // Somebody who looked for it before it was there took it for gone.
      this.#note(name, bytes.length);
      this.#writtenSinceCount += bytes.length;
      if (this.#writtenSinceCount > this.bound * COUNT_AFTER) await this.#count();
    } catch (error) {
      this.#forget(name);
      await rm(beside, { force: true }).catch(() => {});
      this.#rest("written", error);
    }
  }

  /** Removes what turned out to have other bytes. */
  async remove(name: string): Promise<void> {
    this.#forget(name);
    await rm(this.#pathOf(name), { force: true }).catch((error) => this.#rest("written", error));
  }

  #pathOf(name: string): string {
    return join(this.#options.folder, name.slice(0, 2), name);
  }

  #note(name: string, length: number): void {
    this.#forget(name);
    this.#entries.set(name, length);
    this.#bytes += length;
  }

  #forget(name: string): void {
    const before = this.#entries.get(name);
    if (before === undefined) return;
    this.#entries.delete(name);
    this.#bytes -= before;
  }

  async #makeRoom(): Promise<void> {
    for (const [name] of this.#entries) {
      if (this.#bytes <= this.bound) return;
      await this.remove(name);
    }
  }

  #rest(what: "read" | "written", error: unknown): void {
    if (Date.now() < this.#restsUntil) return;
    this.#restsUntil = Date.now() + REST_MS;
    const { code, message } = error as NodeJS.ErrnoException;
    this.#options.tell(
      `The cache ${this.#options.folder} cannot be ${what} (${code ?? message}); files come from the store meanwhile.`,
    );
  }

  // Once at a time, however many writes want it.
  #count(): Promise<void> {
    this.#counting ??= this.#look().finally(() => {
      this.#counting = undefined;
    });
    return this.#counting;
  }

  async #look(): Promise<void> {
    this.#writtenSinceCount = 0;
    try {
      await mkdir(this.#options.folder, { recursive: true });
      const found: { name: string; size: number; changedMs: number }[] = [];
      for (const folder of await readdir(this.#options.folder)) {
        if (!/^[\da-f]{2}$/.test(folder)) continue;
        for (const name of await readdir(join(this.#options.folder, folder))) {
          const stats = await stat(join(this.#options.folder, folder, name)).catch(() => undefined);
          if (stats?.isFile()) found.push({ name, size: stats.size, changedMs: stats.mtimeMs });
        }
      }
      found.sort((a, b) => a.changedMs - b.changedMs);
      const isThere = new Set(found.map(({ name }) => name));
      for (const name of [...this.#entries.keys()]) if (!isThere.has(name)) this.#forget(name);
      const known = [...this.#entries];
      for (const { name, size, changedMs } of found) {
        if (/^[\da-f]{64}$/.test(name)) this.#note(name, size);
        // A killed process left it, unless another one is writing it just now.
        else if (Date.now() - changedMs > LEFT_MS) await this.remove(name);
      }
      // What this process knows to be wanted stays at the end.
      for (const [name, size] of known) this.#note(name, size);
      await this.#makeRoom();
    } catch (error) {
      this.#rest("read", error);
    }
  }
}
