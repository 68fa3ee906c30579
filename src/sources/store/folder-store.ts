import { createHash, randomUUID } from "node:crypto";
import { type FileHandle, link, mkdir, open, readdir, rename, rm, stat } from "node:fs/promises";
import { dirname, join } from "node:path";
import {
  type ListedObject,
  type ObjectStore,
  type ReadOptions,
  StoreError,
  type WrittenBody,
} from "./object-store.js";

/** What is being written lies here: nobody reads it, and what a killed publisher left is removed with old releases. */
export const UNFINISHED = "unfinished/";

/** A release store in a folder of this machine, or of a disk that several share. An object is a file, moved into place when it is whole. */
export class FolderStore implements ObjectStore {
  readonly name: string;
  readonly settlesMs = 0;
  readonly #folder: string;

  constructor(folder: string, name: string) {
    this.#folder = folder;
    this.name = name;
  }

  read(key: string, { atMost, part }: ReadOptions): Promise<Uint8Array | undefined> {
    return this.#tell("read", key, async () => {
      const file = await open(this.#pathOf(key));
      try {
        const { size } = await file.stat();
        const { offset, length } = part ?? { offset: 0, length: size };
        if (length > atMost)
          throw new StoreError(`${this.name}: ${key} has ${length} bytes, more than it may have.`);
        return await readPart(file, offset, Math.max(0, Math.min(length, size - offset)));
      } finally {
        await file.close();
      }
    });
  }

  sizeOf(key: string): Promise<number | undefined> {
    return this.#tell("read", key, async () => (await stat(this.#pathOf(key))).size);
  }

  async write(key: string, { digest, open: openBody }: WrittenBody): Promise<void> {
    await this.#tell("written", key, async () => {
      const hash = createHash("sha256");
      const beside = await this.#writeBeside(async (file) => {
        for await (const chunk of openBody()) {
          hash.update(chunk);
          await file.writeFile(chunk);
        }
      });
      try {
        if (hash.digest("hex") !== digest)
          throw new StoreError(`${this.name}: the bytes of ${key} changed while they were written.`, {
            isTemporary: false,
          });
        const path = this.#pathOf(key);
        await mkdir(dirname(path), { recursive: true });
        await rename(beside, path);
        await syncFolder(dirname(path));
      } catch (error) {
        await rm(beside, { force: true });
        throw error;
      }
    });
  }

  async create(key: string, bytes: Uint8Array): Promise<boolean> {
    const made = await this.#tell("written", key, async () => {
      const beside = await this.#writeBeside((file) => file.writeFile(bytes));
      try {
        // A link is made or refused in one step, on shared disks as well.
        await link(beside, this.#pathOf(key));
        return true;
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code === "EEXIST") return false;
        throw error;
      } finally {
        await rm(beside, { force: true });
      }
    });
    return made === true;
  }

  async remove(key: string): Promise<void> {
    await this.#tell("removed", key, () => rm(this.#pathOf(key)));
  }

  async *list(prefix: string): AsyncGenerator<ListedObject> {
    const waiting = [prefix.slice(0, prefix.lastIndexOf("/") + 1)];
    for (let below = waiting.pop(); below !== undefined; below = waiting.pop()) {
      const start = below;
      const path = join(this.#folder, start);
      const entries = await this.#tell("read", start, () => readdir(path, { withFileTypes: true }));
      for (const entry of entries ?? []) {
        const key = start + entry.name;
        if (entry.isDirectory()) waiting.push(`${key}/`);
        else if (key.startsWith(prefix)) {
          const stats = await stat(join(this.#folder, key)).catch(() => undefined);
          if (stats !== undefined) yield { key, sizeBytes: stats.size, changedMs: stats.mtimeMs };
        }
      }
    }
  }

  #pathOf(key: string): string {
    return join(this.#folder, ...key.split("/"));
  }

  async #writeBeside(write: (file: FileHandle) => Promise<void>): Promise<string> {
    const beside = join(this.#folder, UNFINISHED, randomUUID());
    await mkdir(dirname(beside), { recursive: true });
    try {
      const file = await open(beside, "wx");
      try {
        await write(file);
        await file.datasync();
      } finally {
        await file.close();
      }
    } catch (error) {
      await rm(beside, { force: true });
      throw error;
    }
    return beside;
  }

  // Undefined where there is no such file.
  async #tell<Outcome>(
    what: "read" | "written" | "removed",
    key: string,
    work: () => Promise<Outcome>,
  ): Promise<Outcome | undefined> {
    try {
      return await work();
    } catch (error) {
      if (error instanceof StoreError) throw error;
      const { code, message } = error as NodeJS.ErrnoException;
      if (code === "ENOENT" && what !== "written") return undefined;
      throw new StoreError(`${this.name}: ${key} cannot be ${what} (${code ?? message}).`, { cause: error });
    }
  }
}

async function readPart(file: FileHandle, offset: number, length: number): Promise<Uint8Array> {
  const bytes = Buffer.allocUnsafe(length);
  let done = 0;
  while (done < length) {
    const { bytesRead } = await file.read(bytes, done, length - done, offset + done);
    if (bytesRead === 0) break;
    done += bytesRead;
  }
  return bytes.subarray(0, done);
}

// A new name is on the disk when its folder is.
async function syncFolder(path: string): Promise<void> {
  const folder = await open(path).catch(() => undefined);
  await folder?.sync().catch(() => {});
  await folder?.close();
}
