import { readdir, stat } from "node:fs/promises";
import { basename, dirname, isAbsolute, join, resolve } from "node:path";
import type { EarlierReleases } from "../core/rules/earlier.js";
import type { FileSource } from "../core/source.js";
import { folderSource } from "./folder.js";
import type { LinkPolicy } from "./links.js";
import { isLocalFileSystem } from "./local-file-system.js";
import { toFolder } from "./open-folder.js";

/** How many releases are looked at at most, however many folders a pattern finds. */
export const RELEASES_AT_MOST = 20;
/** For how long a list of folders is used first, in milliseconds: mostly, what a page asks for was deployed before. */
const LISTED_MS = 1000;

export interface EarlierFoldersOptions {
  /** Absolute path of the folder that the releases are in. */
  readonly parent: string;
  /** The parent as it was written, for messages; ends with a slash unless it is empty. */
  readonly shownParent: string;
  /** True for the name of a folder that is a release. */
  readonly matches: (name: string) => boolean;
  /** How many of the newest; at most RELEASES_AT_MOST. */
  readonly keep: number;
  /** Not older than this, in milliseconds. */
  readonly withinMs: number;
  readonly links: LinkPolicy;
  readonly now?: () => number;
}

interface Release {
  readonly name: string;
  readonly changedMs: number;
}

/**
 * The folders of a pattern as releases, the one that changed last first. The folders are listed when they are asked for; a source
 * lives while its folder is listed.
 */
export class EarlierFolders implements EarlierReleases {
  readonly #options: EarlierFoldersOptions;
  readonly #sources = new Map<string, FileSource>();
  #listed: { readonly atMs: number; readonly sources: readonly FileSource[] } | undefined;

  constructor(options: EarlierFoldersOptions) {
    this.#options = options;
  }

  list(): readonly FileSource[] | Promise<readonly FileSource[]> {
    const nowMs = this.#now();
    const isRecent = this.#listed !== undefined && Math.abs(nowMs - this.#listed.atMs) < LISTED_MS;
    return isRecent ? this.#listed!.sources : this.#list(nowMs);
  }

  listNow(): Promise<readonly FileSource[]> {
    return this.#list(this.#now());
  }

  #now(): number {
    return (this.#options.now ?? Date.now)();
  }

  async #list(nowMs: number): Promise<readonly FileSource[]> {
    const { keep, withinMs } = this.#options;
    const releases = (await this.#findReleases())
      .filter(({ changedMs }) => nowMs - changedMs <= withinMs)
      .sort((a, b) => b.changedMs - a.changedMs || (a.name < b.name ? 1 : -1))
      .slice(0, Math.min(keep, RELEASES_AT_MOST));
    const names = new Set(releases.map(({ name }) => name));
    for (const name of this.#sources.keys()) if (!names.has(name)) this.#sources.delete(name);
    // Another list in progress may release a source meanwhile, so each is taken as it is found.
    const sources: FileSource[] = [];
    for (const { name } of releases) sources.push(this.#sources.get(name) ?? (await this.#open(name)));
    this.#listed = { atMs: nowMs, sources };
    return sources;
  }

  async #open(name: string): Promise<FileSource> {
    const { parent, shownParent, links } = this.#options;
    const path = join(parent, name);
    const local = await isLocalFileSystem(path).catch(() => false);
    const source = folderSource(path, { name: shownParent + name, links, local });
    this.#sources.set(name, source);
    return source;
  }

  async #findReleases(): Promise<Release[]> {
    const { parent, matches } = this.#options;
    const entries = await readdir(parent, { withFileTypes: true }).catch(() => []);
    const folders = entries.filter((entry) => entry.isDirectory() && matches(entry.name));
    const releases = await Promise.all(
      folders.map(async ({ name }) => {
        const stats = await stat(join(parent, name)).catch(() => undefined);
        return stats?.isDirectory() ? [{ name, changedMs: stats.mtimeMs }] : [];
      }),
    );
    return releases.flat();
  }
}

/** The folder and the last name of a pattern of releases. */
export function splitPattern(path: string): { parent: string; name: string } {
  return { parent: dirname(path), name: basename(path) };
}

/** The absolute path of a folder; undefined for a relative one where nothing says what it is relative to. */
export function resolveFolder(folder: string, base: string | URL | undefined): string | undefined {
  const start = base === undefined ? undefined : toFolder(base);
  return isAbsolute(folder) || start !== undefined ? resolve(start ?? "", folder) : undefined;
}
