import type { Pause } from "../../core/listing/order.js";
import { walkMount } from "../../core/resolve/walk.js";
import { type Mount, withheldIn } from "../../core/rules/mount.js";
import type { FileSource, OpenedFile } from "../../core/source.js";
import { makeRests } from "../../reading/slices.js";
import { FolderFile } from "../folder-file.js";
import { digestOf, LiveBytes } from "./live-bytes.js";
import { digestPieces, hasPieces } from "./pieces.js";
import { SealedEntry } from "./sealed-entry.js";
import { SealedFolder } from "./sealed-folder.js";

/** A folder that was sealed, and why some files were left out: each as its path with the cause. */
export interface TakenSeal {
  readonly folder: SealedFolder;
  readonly left: readonly string[];
}

/** How a folder is sealed. */
export interface SealOptions {
  /** True for what is left out. */
  readonly skips?: (path: string, source: FileSource) => Promise<boolean>;
  /** Makes the digests of pieces, too: for a seal that is written. */
  readonly pieces?: boolean;
}

/**
 * Seals a mount's folder as it is now: each file that may be served is read once, its digest made, and its bytes kept where they
 * are few. Files that cannot be read are left out.
 */
export async function takeSeal(
  mount: Mount,
  pause: Pause,
  { skips, pieces = false }: SealOptions = {},
): Promise<TakenSeal> {
  const live = (await mount.source.snapshot?.()) ?? mount.source;
  const bytes = new LiveBytes(live);
  const folder = new SealedFolder(live.name, bytes);
  const left: string[] = [];
  const rest = makeRests(pause);
  for await (const { path, kind } of walkMount({ ...mount, source: live }, { sizes: false, rest })) {
    await rest();
    if (kind === "directory" || (await skips?.(path, live))) continue;
    const problem = await sealFile({ folder, bytes, pieces }, { ...mount, source: live }, path);
    if (problem !== undefined) left.push(`${path}: ${problem}`);
  }
  return { folder, left };
}

interface Sealing {
  readonly folder: SealedFolder;
  readonly bytes: LiveBytes;
  readonly pieces: boolean;
}

async function sealFile(
  { folder, bytes, pieces: wanted }: Sealing,
  mount: Mount,
  path: string,
): Promise<string | undefined> {
  const live = mount.source;
  const found = live.openNow?.(path) ?? (await live.open(path));
  if (found.kind !== "file") {
    if (found.kind === "directory") found.directory.close();
    return "cause" in found ? found.cause : "because" in found ? found.because : found.kind;
  }
  const { file, realPath } = found;
  try {
    // The name was given to another file since the walk saw it.
    if (realPath !== undefined && withheldIn(mount, realPath) !== undefined) return undefined;
    const { sizeBytes, modifiedNs } = file.metadata;
    const taken = bytes.take(sizeBytes);
    const { digest, pieces } =
      wanted && hasPieces(sizeBytes)
        ? await digestPieces(file)
        : {
            digest: taken === undefined ? await file.digest() : digestOf(await fill(file, taken.bytes)),
            pieces: undefined,
          };
    if (pieces !== undefined && file.isUnchanged?.() === false)
      throw new Error("it was changed while it was read");
    const by = (await mount.names?.judge(live, path))?.verdict.by;
    const modifiedMs = Number(modifiedNs / 1_000_000n);
    const entry = new SealedEntry({ sizeBytes, modifiedMs, digest, name: by, pieces });
    folder.add(path, entry);
    if (taken !== undefined) bytes.keep(entry, taken.place);
    return undefined;
  } catch (error) {
    return (error as Error).message;
  } finally {
    file.close();
  }
}

async function fill(file: OpenedFile, into: Buffer): Promise<Uint8Array> {
  // Nobody waits for an answer yet: reading in place takes a tenth of the time.
  const bytes = file instanceof FolderFile ? file.readNow(into) : await file.read(0, into.length, into);
  if (bytes.length !== into.length) throw new Error("it became shorter while it was read");
  // A source that has its bytes at hand gives those.
  if (bytes !== into) into.set(bytes);
  return into;
}
