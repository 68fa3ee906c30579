import { readFile, stat } from "node:fs/promises";
import { resolve } from "node:path";
import { loadConfigFile } from "../../adapters/node.js";
import { SiteError } from "../../config/site-error.js";
import { formatPath } from "../../core/request/target.js";
import { openSite } from "../../site/open.js";
import { listSeal, type SealedList } from "../../site/seal-file.js";
import type { Site } from "../../site/site.js";
import { memorySource } from "../../sources/memory.js";

/** A file that a release answers with. */
export interface ReleaseFile {
  /** Its own address, escaped. */
  readonly address: string;
  readonly sizeBytes: number;
  readonly mediaType: string;
  readonly fingerprinted: boolean;
  /** SHA-256 of its bytes in base64url, where a seal tells it. */
  readonly digest: string | undefined;
}

/** What one release of a site answers. */
export interface Release {
  /** As it was named: the folder, seal or configuration. */
  readonly name: string;
  readonly site: Site;
  /** By their addresses. */
  readonly files: ReadonlyMap<string, ReleaseFile>;
  /** False for a seal: it tells of files, and does not have them. */
  readonly hasBytes: boolean;
}

/** Opens a release: a folder, a seal file, or a configuration file. Rejects with a SiteError that says what else it is. */
export async function openRelease(name: string): Promise<Release> {
  const found = await stat(name).catch(() => undefined);
  if (found === undefined)
    throw new SiteError([
      `${name}: there is no such file or folder; name a folder, a seal file or a configuration file.`,
    ]);
  if (found.isDirectory()) {
    const site = await openSite({ base: process.cwd(), mounts: [{ folder: name }] });
    return releaseOf(name, site);
  }
  if (await isSeal(name)) return openSeal(name);
  return releaseOf(name, await openSite(await loadConfigFile(resolve(name))));
}

/** The release of an open site. */
export async function releaseOf(name: string, site: Site): Promise<Release> {
  const files = new Map<string, ReleaseFile>();
  for await (const { path, kind, sizeBytes, mediaType = "", fingerprinted } of site.files())
    if (kind === "file")
      files.set(path, { address: path, sizeBytes, mediaType, fingerprinted, digest: undefined });
  return { name, site, files, hasBytes: true };
}

// Only the names count for what is answered: the rules of a seal's configuration are not in it.
async function openSeal(name: string): Promise<Release> {
  const { mounts } = await listSeal(name);
  const site = await openSite({
    mounts: mounts.map(({ at, files }) => ({
      at,
      source: memorySource(Object.fromEntries(files.map(({ path }) => [path, ""]))),
    })),
  });
  const { files } = await releaseOf(name, site);
  const told = new Map<string, SealedList["files"][number]>(
    mounts.flatMap(({ at, files: sealed }) =>
      sealed.map((file) => [`${at === "/" ? "" : formatPath(at)}/${formatPath(file.path)}`, file] as const),
    ),
  );
  const known = [...files].map(([address, file]) => {
    const { size = 0, digest } = told.get(address) ?? {};
    return [address, { ...file, sizeBytes: size, digest }] as const;
  });
  return { name, site, files: new Map(known), hasBytes: false };
}

export async function isSeal(name: string): Promise<boolean> {
  return /\.jsonl$/.test(name) || (await readFile(name, "utf8").catch(() => "")).startsWith('{"seal":');
}
