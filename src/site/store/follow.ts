import { mkdir, readdir, readFile, rm } from "node:fs/promises";
import { join } from "node:path";
import { SealedFolder } from "../../sources/sealed/sealed-folder.js";
import { Blobs } from "../../sources/store/blobs.js";
import { DiskCache } from "../../sources/store/disk-cache.js";
import { type ObjectStore, StoreError } from "../../sources/store/object-store.js";
import {
  nameRelease,
  type Pointer,
  parsePointer,
  readPointer,
  readSeal,
  type StoredRelease,
  sha256,
} from "../../sources/store/pointer.js";
import { StoredBytes } from "../../sources/store/stored-bytes.js";
import { TIMES } from "../../sources/store/times.js";
import { makePause } from "../pause.js";
import { isFingerprintedCode, parseSeal, toEntry } from "../seal-file.js";
import type { CacheOptions } from "../site.js";
import { writeWhole } from "../write-whole.js";

/** The files of a release, by the prefix of their mount. */
export type Folders = ReadonlyMap<string, SealedFolder>;

/** Whether a file of another release answers, whatever its name is. */
type Wanted = (at: string, path: string) => boolean;

/**
 * Follows the pointer of a release store, and reads the seals of the releases that it names. What was read last stands while the store
 * does not answer.
 */
export class Follower {
  readonly store: ObjectStore;
  readonly blobs: Blobs;
  /** Whether a release that should answer could not be read. */
  isIncomplete = false;
  readonly disk: DiskCache | undefined;
  readonly #folder: string | undefined;
  readonly #tell: (text: string) => void;
  readonly #pause = makePause();
  readonly #bytes: StoredBytes;
  readonly #folders = new Map<string, Promise<Folders>>();
  #pointer: Pointer | undefined;
  #failure: { readonly sinceMs: number; readonly message: string } | undefined;
  #lookedMs = 0;
  #said = "";

  constructor(store: ObjectStore, cache: CacheOptions | undefined, tell: (text: string) => void) {
    this.store = store;
    this.disk = cache && new DiskCache({ folder: join(cache.folder, "files"), bound: cache.bytes, tell });
    this.disk?.open();
    this.blobs = new Blobs(store, this.disk);
    this.#bytes = new StoredBytes(this.blobs);
    this.#folder = cache?.folder;
    this.#tell = tell;
  }

  /** Says that a release cannot be read, once for the same cause. */
  noteIncomplete(text: string): void {
    this.isIncomplete = true;
    if (text !== this.#said) this.#tell(text);
    this.#said = text;
  }

  /** What the store said last; undefined before it said anything. */
  get pointer(): Pointer | undefined {
    return this.#pointer;
  }

  /** Since when the store does not answer, and what it says. */
  get failure(): { readonly sinceMs: number; readonly message: string } | undefined {
    return this.#failure;
  }

  /** When the pointer was read last, in milliseconds since the epoch. */
  get lookedMs(): number {
    return this.#lookedMs;
  }

  /**
   * Looks at the pointer. True where it is another one. A store that does not answer changes nothing, and is told once; without anything to
   * go on with it rejects with a StoreError.
   */
  async look(): Promise<boolean> {
    let next: Pointer | undefined;
    try {
      next = await readPointer(this.store, TIMES.lookDeadline);
      if (next === undefined)
        throw new StoreError(
          `${this.store.name}: nothing was published there yet; write epistyle publish FOLDER with this store.`,
          { isTemporary: false },
        );
    } catch (error) {
      return this.#goOn(error as Error);
    }
    if (this.#failure !== undefined)
      this.#tell(`${this.store.name} answers again, after ${seconds(Date.now() - this.#failure.sinceMs)}.`);
    this.#failure = undefined;
    this.#lookedMs = Date.now();
    return this.#take(next);
  }

  /** The release that is present. */
  get present(): StoredRelease {
    return this.#release(this.#pointer!.present!)!;
  }

  /** The releases that are not present: the one that will be in a moment, then the one that was present last, and so on. */
  listOthers(): StoredRelease[] {
    const { present, next, releases } = this.#pointer!;
    return releases
      .filter(({ number }) => number !== present)
      .sort((a, b) => Number(b.number === next) - Number(a.number === next) || byTime(b, a));
  }

  /**
   * The files of a release at each mount, by the mount's prefix: all, or the fingerprinted ones and those that are `wanted`. What was read
   * once is kept while it is in use. Rejects with a StoreError.
   */
  readFolders(release: StoredRelease, wanted?: Wanted): Promise<Folders> {
    const key = `${wanted === undefined ? "all" : "some"} ${release.seal}`;
    const before = this.#folders.get(key);
    if (before !== undefined) return before;
    const reading = this.#readFolders(release, wanted);
    this.#folders.set(key, reading);
    reading.catch(() => this.#folders.delete(key));
    return reading;
  }

  /** Forgets which files were wanted of other releases: another configuration wants others. */
  forgetWanted(): void {
    for (const key of this.#folders.keys()) if (key.startsWith("some ")) this.#folders.delete(key);
  }

  /** Lets go of what no release in use has. */
  async keepOnly(used: readonly StoredRelease[]): Promise<void> {
    const seals = new Set(used.map(({ seal }) => seal));
    const digests = new Set<string>();
    for (const [key, reading] of this.#folders) {
      if (!seals.has(key.slice(key.indexOf(" ") + 1))) this.#folders.delete(key);
      else
        for (const { files } of (await reading.catch(() => new Map<string, SealedFolder>())).values())
          for (const { digest } of files.values()) digests.add(digest);
    }
    this.blobs.keepOnly(digests);
    if (this.#folder === undefined) return;
    for (const name of await readdir(this.#sealFolder).catch(() => []))
      if (!seals.has(name.slice(0, 64)))
        await rm(join(this.#sealFolder, name), { force: true }).catch(() => {});
  }

  async #readFolders(release: StoredRelease, wanted: Wanted | undefined): Promise<Folders> {
    const name = nameRelease(this.store, release.number);
    const { mounts } = await parseSeal(await this.#readSeal(release.seal), name, this.#pause);
    const folders = new Map<string, SealedFolder>();
    for (const { at, files } of mounts) {
      const folder = new SealedFolder(name, this.#bytes);
      for (const file of files) {
        const entry = toEntry(file);
        if (wanted === undefined || isFingerprintedCode(entry.name) || wanted(at, file.path))
          folder.add(file.path, entry);
      }
      folders.set(at, folder);
    }
    return folders;
  }

  #release(number: number): StoredRelease | undefined {
    return this.#pointer?.releases.find((one) => one.number === number);
  }

  async #take(next: Pointer): Promise<boolean> {
    const before = this.#pointer;
    if (next.present === undefined)
      throw new StoreError(
        `${this.store.name}: no release is present; write epistyle releases --to N with this store.`,
        {
          isTemporary: false,
        },
      );
    this.#pointer = next;
    if (before?.revision === next.revision && before.writer === next.writer) return false;
    await this.#save("present.json", `${JSON.stringify(next)}\n`);
    return true;
  }

  // A server that starts while the store is away goes on with what it knew.
  async #goOn(error: Error): Promise<boolean> {
    const isFirst = this.#failure === undefined;
    this.#failure ??= { sinceMs: Date.now(), message: error.message };
    if (this.#pointer !== undefined) {
      if (isFirst) this.#tell(`${error.message} What is known goes on being served.`);
      return false;
    }
    const cached = await this.#load("present.json");
    if (cached === undefined) throw error;
    this.#pointer = parsePointer(cached, join(this.#folder!, "present.json"));
    this.#tell(
      `${error.message} ${nameRelease(this.store, this.present.number)} is served from the cache ${this.#folder}, as it was known last.`,
    );
    return true;
  }

  async #readSeal(seal: string): Promise<string> {
    const name = join("seals", `${seal}.jsonl`);
    const cached = await this.#load(name);
    if (cached !== undefined && sha256(cached) === seal) return cached.toString("utf8");
    const text = await readSeal(this.store, seal, 6 * TIMES.lookDeadline);
    await this.#save(name, text);
    return text;
  }

  get #sealFolder(): string {
    return join(this.#folder!, "seals");
  }

  async #load(name: string): Promise<Buffer | undefined> {
    if (this.#folder === undefined) return undefined;
    return readFile(join(this.#folder, name)).catch(() => undefined);
  }

  async #save(name: string, text: string): Promise<void> {
    if (this.#folder === undefined) return;
    try {
      await mkdir(this.#sealFolder, { recursive: true });
      await writeWhole(join(this.#folder, name), text);
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      this.#tell(
        `The cache ${this.#folder} cannot be written (${code ?? message}); files come from the store meanwhile.`,
      );
    }
  }
}

const byTime = (a: StoredRelease, b: StoredRelease): number =>
  Date.parse(a.present) - Date.parse(b.present) || a.number - b.number;

const seconds = (milliseconds: number): string => `${Math.max(1, Math.round(milliseconds / 1000))} s`;
