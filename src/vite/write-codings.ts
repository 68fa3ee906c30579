import { createHash } from "node:crypto";
import { mkdir, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { availableParallelism } from "node:os";
import { join, relative } from "node:path";
import { isCompressible, mediaTypeByName } from "../core/media-types/media-type.js";
import { CODING_ENDINGS, type Coding } from "../core/rules/codings.js";
import { hasDotName } from "../core/rules/withheld.js";
import { makeAlgorithms } from "../sources/algorithms.js";
import { doAtATime } from "../testing/ask/at-a-time.js";

/** Compressing less is not worth its own file, in bytes. */
const COMPRESS_FROM = 1024;

// A build has time: as small as each gets.
const algorithms = makeAlgorithms({ br: 11, gzip: 9 });

/** What was written, in files and bytes, and what this platform cannot make. */
export interface WrittenCodings {
  readonly files: number;
  /** How many of the files were made by an earlier build of the same content. */
  readonly kept: number;
  /** How many bytes less they are than the files they stand for. */
  readonly savedBytes: number;
  readonly missing: readonly Coding[];
}

/**
 * Writes codings beside the files of a folder that get smaller by them: `app.js.br` beside `app.js`. What was made is kept in `cacheDir` for
 * the next build: most files of a build are those of the one before.
 */
export async function writeCodings(
  folder: string,
  codings: readonly Coding[],
  cacheDir: string,
): Promise<WrittenCodings> {
  const cache = await openCache(join(cacheDir, `epistyle-codings-${digest(folder).slice(0, 8)}`));
  let [files, kept, savedBytes] = [0, 0, 0];
  const made = codings.filter((coding) => algorithms[coding] !== undefined);
  await doAtATime(await listFiles(folder), availableParallelism(), async (file) => {
    const bytes = await readFile(file);
    if (bytes.length < COMPRESS_FROM) return;
    for (const coding of made) {
      const ending = CODING_ENDINGS[coding];
      const key = `${digest(bytes)}${ending}`;
      const known = await cache.read(key);
      const coded = known ?? (await algorithms[coding]!(bytes));
      if (known === undefined) await cache.write(key, coded);
      if (coded.length >= bytes.length) continue;
      await writeFile(file + ending, coded);
      files++;
      if (known !== undefined) kept++;
      savedBytes += bytes.length - coded.length;
    }
  });
  await cache.forgetOthers();
  return { files, kept, savedBytes, missing: codings.filter((coding) => !made.includes(coding)) };
}

async function listFiles(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return (
    entries
      .filter((entry) => entry.isFile() && isCompressible(mediaTypeByName(entry.name, new Map())))
      .map((entry) => join(entry.parentPath, entry.name))
      // No visitor gets a name with a dot before it.
      .filter((file) => !hasDotName(relative(folder, file).replaceAll("\\", "/")))
  );
}

const digest = (bytes: string | Uint8Array): string => createHash("sha256").update(bytes).digest("hex");

interface Cache {
  read(key: string): Promise<Uint8Array | undefined>;
  write(key: string, bytes: Uint8Array): Promise<void>;
  /** Removes what nobody asked for or wrote. */
  forgetOthers(): Promise<void>;
}

// A name has the digest of what it was made from, and of what it holds: a damaged file is made again.
async function openCache(folder: string): Promise<Cache> {
  const names = await readdir(folder).catch((): string[] => []);
  const known = new Map(names.map((name) => [name.slice(name.indexOf("-") + 1), name]));
  const used = new Set<string>();
  return {
    async read(key) {
      const name = known.get(key);
      if (name === undefined) return undefined;
      const bytes = await readFile(join(folder, name)).catch(() => undefined);
      if (bytes === undefined || name !== nameOf(key, bytes)) return undefined;
      used.add(name);
      return bytes;
    },
    async write(key, bytes) {
      const name = nameOf(key, bytes);
      used.add(name);
      // Where nothing can be kept it is made each time.
      await mkdir(folder, { recursive: true })
        .then(() => writeFile(join(folder, name), bytes))
        .catch(() => {});
    },
    async forgetOthers() {
      for (const name of names) if (!used.has(name)) await rm(join(folder, name), { force: true });
    },
  };
}

const nameOf = (key: string, bytes: Uint8Array): string => `${digest(bytes).slice(0, 16)}-${key}`;
