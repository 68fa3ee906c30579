import { readdir, readFile, writeFile } from "node:fs/promises";
import { join, relative } from "node:path";
import { isCompressible, mediaTypeByName } from "../core/media-types/media-type.js";
import { CODING_ENDINGS, type Coding } from "../core/rules/codings.js";
import { hasDotName } from "../core/rules/withheld.js";
import { makeAlgorithms } from "../sources/algorithms.js";

/** Compressing less is not worth its own file, in bytes. */
const COMPRESS_FROM = 1024;

// A build has time: as small as each gets.
const algorithms = makeAlgorithms({ br: 11, gzip: 9 });

/** What was written, in files and bytes, and what this platform cannot make. */
export interface WrittenCodings {
  readonly files: number;
  /** How many bytes less they are than the files they stand for. */
  readonly savedBytes: number;
  readonly missing: readonly Coding[];
}

/** Writes codings beside the files of a folder that get smaller by them: `app.js.br` beside `app.js`. */
export async function writeCodings(folder: string, codings: readonly Coding[]): Promise<WrittenCodings> {
  let [files, savedBytes] = [0, 0];
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  for (const entry of entries) {
    if (!entry.isFile() || !isCompressible(mediaTypeByName(entry.name, new Map()))) continue;
    const file = join(entry.parentPath, entry.name);
    // No visitor gets it.
    if (hasDotName(relative(folder, file).replaceAll("\\", "/"))) continue;
    const bytes = await readFile(file);
    if (bytes.length < COMPRESS_FROM) continue;
    for (const coding of codings) {
      const made = await algorithms[coding]?.(bytes);
      if (made === undefined || made.length >= bytes.length) continue;
      await writeFile(file + CODING_ENDINGS[coding], made);
      files++;
      savedBytes += bytes.length - made.length;
    }
  }
  return { files, savedBytes, missing: codings.filter((coding) => algorithms[coding] === undefined) };
}
