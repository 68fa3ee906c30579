import { isAddressable } from "../request/target.js";
import { type Mount, withheldIn } from "../rules/mount.js";
import { below, readInPlace } from "./read-directory.js";

/** A file or directory of a mount that may be served, by its path inside it. */
export interface WalkedEntry {
  /** Without a slash at either end; `""` is the mount's own folder. */
  readonly path: string;
  readonly kind: "file" | "directory";
  /** Bytes; 0 for a directory. */
  readonly sizeBytes: number;
  /** Where it really lies, if it is reached through a symbolic link: rules that withhold go by that name, too. */
  readonly liesAt?: string | undefined;
}

export interface WalkOptions {
  /** What is left out besides. */
  readonly skips?: (path: string) => boolean;
  /** False where nobody asks for sizes (default true): they are 0 then, and nothing is asked about a file. */
  readonly sizes?: boolean;
  /** Gives what to wait for when others waited long enough: a folder may have very many entries. */
  readonly rest?: () => Promise<void> | undefined;
}

/**
 * Every file and directory of a mount that may be served, in the order of their names, folders before what is in them. What is
 * withheld, no address leads to, or `skips` names is left out, with what is below it. No file is opened.
 */
export async function* walkMount(mount: Mount, options: WalkOptions = {}): AsyncGenerator<WalkedEntry> {
  const { skips = () => false } = options;
  const visited = new Set<string>();
  const folders = skips("") ? [] : [""];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    yield { path: folder, kind: "directory", sizeBytes: 0 };
    const inside: string[] = [];
    for (const { path, kind, sizeBytes, realPath, liesAt } of await readOffered(mount, folder, options)) {
      if (kind === "file") {
        yield { path, kind, sizeBytes, liesAt };
        continue;
      }
      // A link to a folder above would be walked for ever.
      if (realPath !== undefined && visited.has(realPath)) continue;
      if (realPath !== undefined) visited.add(realPath);
      inside.push(path);
    }
    folders.push(...inside.reverse());
  }
}

interface Offered extends WalkedEntry {
  readonly realPath: string | undefined;
}

// The files and folders in a folder that may be served, in the order of their names.
async function readOffered(
  mount: Mount,
  folder: string,
  { skips, sizes = true, rest }: WalkOptions,
): Promise<readonly Offered[]> {
  const read = await readInPlace(mount, folder, async (directory, real) => {
    const entries = await directory.list();
    if ("kind" in entries) return [];
    const offered: Offered[] = [];
    for (const { name, kind } of [...entries].sort((a, b) => (a.name < b.name ? -1 : 1))) {
      await rest?.();
      const path = below(folder, name);
      if (!isAddressable(name) || isWithheld(mount, path) || isWithheld(mount, below(real, name))) continue;
      if (skips?.(path) || (kind !== undefined && kind !== "file" && kind !== "directory")) continue;
      const isKnown = kind === "directory" || (kind === "file" && !sizes);
      const metadata = isKnown ? { kind, sizeBytes: 0, realPath: undefined } : await directory.stat(name);
      if (metadata?.kind !== "file" && metadata?.kind !== "directory") continue;
      const { realPath } = metadata;
      if (realPath !== undefined && isWithheld(mount, realPath)) continue;
      const isFile = metadata.kind === "file";
      const liesAt = realPath ?? (real === folder ? undefined : below(real, name));
      offered.push({
        path,
        kind: metadata.kind,
        sizeBytes: isFile ? metadata.sizeBytes : 0,
        realPath,
        liesAt,
      });
    }
    return offered;
  });
  return read ?? [];
}

function isWithheld(mount: Mount, path: string): boolean {
  return withheldIn(mount, path) !== undefined;
}
