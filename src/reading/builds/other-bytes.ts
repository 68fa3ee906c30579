import type { FileBefore, JudgedFile } from "../../core/rules/names.js";
import type { FileSource, OpenedFile } from "../../core/source.js";
import { openQuietly } from "./proved.js";

/** Longer files are compared by their sizes alone, in bytes. */
const COMPARED_UP_TO = 1024 * 1024;

/** True where a file has other bytes than what was at its address before; false where that cannot be told. */
export function isOther(
  before: FileBefore | undefined,
  { metadata }: OpenedFile,
  digest: string | undefined,
): boolean {
  if (before === undefined || before.metadata === metadata) return false;
  if (before.metadata.sizeBytes !== metadata.sizeBytes) return true;
  const seen = before.metadata.digest ?? before.digest?.sha256;
  const now = metadata.digest ?? digest;
  return seen !== undefined && now !== undefined && seen !== now;
}

/** The earlier release that has other bytes under a file's name, in words; undefined where none has. */
export async function findInEarlier({ path, file, mount }: JudgedFile): Promise<string | undefined> {
  for (const source of (await mount.earlier?.list()) ?? [])
    if (await hasOther(source, path, file)) return `in the earlier release ${source.name}`;
  return undefined;
}

/** True where a source has other bytes under a path; false where that cannot be told. */
export async function hasOther(source: FileSource, path: string, file: OpenedFile): Promise<boolean> {
  const found = await openQuietly(source, path);
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "file") return false;
  try {
    const { sizeBytes } = file.metadata;
    if (found.file.metadata.sizeBytes !== sizeBytes) return true;
    return sizeBytes <= COMPARED_UP_TO && (await found.file.digest()) !== (await file.digest());
  } catch {
    return false;
  } finally {
    found.file.close();
  }
}
