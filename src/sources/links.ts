import type { BigIntStats } from "node:fs";
import { fstatSync, readlinkSync, realpath as realpathWithCallback } from "node:fs";
import { lstat, readlink, stat } from "node:fs/promises";
import { join, sep } from "node:path";
import { promisify } from "node:util";
import type { MissingCause } from "../core/source.js";
import { foldName } from "../core/text/fold-name.js";

export type LinkPolicy = "inside" | "none" | "anywhere";

/** Where a path of the folder really lies. */
export interface Location {
  /** Its own path in the file system. */
  readonly real: string;
  /** The path inside the folder that links lead to; undefined when the path itself is the real one, or is outside. */
  readonly realPath: string | undefined;
  /** Why the path is not served, where it is not. */
  readonly refused: MissingCause | undefined;
}

/** A path of the folder that was opened, or that was asked about by name alone. */
export interface Opened {
  /** The path inside the folder. */
  readonly path: string;
  readonly full: string;
  readonly stats: BigIntStats;
}

const realpath = promisify(realpathWithCallback.native);

/**
 * Finds out where an opened path really lies and whether the link policy lets it be served. The answer holds for the inode
 * that was opened: undefined when the path leads elsewhere by now. Rejects when the path is gone. With the descriptor, where
 * the system can tell its path, the answer is the opened file's own, even if its name was given to another meanwhile.
 */
export async function locate(
  root: string,
  { path, full, stats }: Opened,
  links: LinkPolicy,
  descriptor?: number,
): Promise<Location | undefined> {
  const [realRoot, own] = await Promise.all([realpath(root), askDescriptor(descriptor)]);
  const real = own ?? (await askName(full, stats));
  if (real === undefined) return undefined;

  const prefix = realRoot.endsWith(sep) ? realRoot : realRoot + sep;
  const inside = real === realRoot ? "" : real.startsWith(prefix) ? real.slice(prefix.length) : undefined;
  if (inside === undefined) {
    return { real, realPath: undefined, refused: links === "anywhere" ? undefined : "link-leads-outside" };
  }
  const realPath = sep === "/" ? inside : inside.replaceAll(sep, "/");
  if (realPath === path) return { real, realPath: undefined, refused: undefined };
  // A file system that ignores case or Unicode form must not make an address answer that fails on another machine.
  if (foldName(realPath) === foldName(path) && !(await isLinked(root, path, realPath)))
    return { real, realPath, refused: "name-differs" };
  return { real, realPath, refused: links === "none" ? "link-not-followed" : undefined };
}

/**
 * Where an opened path lies when no link is on it and the system tells so without waiting: the usual case. Undefined for every
 * other, which `locate` finds out. `root` is a real path.
 */
export function locateAtOnce(root: string, path: string, descriptor: number): Location | undefined {
  const real = pathOfDescriptor(descriptor);
  const expected = path === "" ? root : `${root}/${path}`;
  return real === expected ? { real, realPath: undefined, refused: undefined } : undefined;
}

/**
 * False when an opened path lies elsewhere although its name does not lead there: it was moved since, and says nothing of what the
 * name leads to now.
 */
export async function leadsThere({ full }: Opened, { real, realPath, refused }: Location): Promise<boolean> {
  const isPlain = realPath === undefined && refused === undefined;
  return isPlain || refused === "name-differs" || (await realpath(full)) === real;
}

// Names that differ in case alone, where each of them is a link's own, are two names: Readme.md -> README.md.
async function isLinked(root: string, path: string, realPath: string): Promise<boolean> {
  const [segments, real] = [path.split("/"), realPath.split("/")];
  for (const [index, segment] of segments.entries()) {
    if (segment === real[index]) continue;
    const stats = await lstat(join(root, ...segments.slice(0, index + 1)));
    if (!stats.isSymbolicLink()) return false;
  }
  return true;
}

// Linux tells the path that a descriptor was opened at; when that name is gone, a note is behind it.
async function askDescriptor(descriptor: number | undefined): Promise<string | undefined> {
  if (descriptor === undefined || process.platform !== "linux") return undefined;
  const path = await readlink(`/proc/self/fd/${descriptor}`).catch(() => undefined);
  if (path === undefined || !path.startsWith("/")) return undefined;
  if (!path.endsWith(DELETED)) return path;
  // A name may end so by itself. Whether another link is left says nothing: the note is about this one.
  const [own, named] = [
    fstatSync(descriptor, { bigint: true }),
    await stat(path, { bigint: true }).catch(() => undefined),
  ];
  return named !== undefined && named.ino === own.ino && named.dev === own.dev
    ? path
    : path.slice(0, -DELETED.length);
}

/** The path that a descriptor was opened at, as Linux tells it, with the note where its name is gone; undefined when it cannot. */
export function pathOfDescriptor(descriptor: number): string | undefined {
  if (process.platform !== "linux") return undefined;
  try {
    return readlinkSync(`/proc/self/fd/${descriptor}`);
  } catch {
    return undefined;
  }
}

const DELETED = " (deleted)";

async function askName(full: string, opened: BigIntStats): Promise<string | undefined> {
  const real = await realpath(full);
  const now = await stat(real, { bigint: true });
  return now.ino === opened.ino && now.dev === opened.dev ? real : undefined;
}
