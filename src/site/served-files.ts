import { mediaTypeByName } from "../core/media-types/media-type.js";
import { formatPath } from "../core/request/target.js";
import { walkMount } from "../core/resolve/walk.js";
import { type Mount, selectRules } from "../core/rules/mount.js";
import { isFingerprinted } from "../core/rules/names.js";
import type { CompiledSite } from "../core/site.js";
import { sitePath } from "../core/text/path.js";

/** A file or directory that the site offers, by its address. */
export interface ServedEntry {
  /** Its own address, escaped, from the site's root; a directory's ends with a slash. */
  readonly path: string;
  readonly kind: "file" | "directory";
  /** Prefix of the mount it belongs to. */
  readonly mount: string;
  /** Media type by its name; undefined for a directory. */
  readonly mediaType: string | undefined;
  /** True for a name that changes with the content. */
  readonly fingerprinted: boolean;
  /** Bytes; 0 for a directory. */
  readonly sizeBytes: number;
}

/**
 * Every file and directory that the site offers, in the order of their names: what is withheld, or hidden by another mount,
 * is left out. Nothing is opened.
 */
export async function* walkServed(site: CompiledSite): AsyncGenerator<ServedEntry> {
  for (const mount of site.mounts.values()) yield* walkServedMount(site, mount);
}

async function* walkServedMount(site: CompiledSite, mount: Mount): AsyncGenerator<ServedEntry> {
  const source = (await mount.source.snapshot?.()) ?? mount.source;
  for await (const { path, kind, sizeBytes } of walkMount(mount, { mounts: site.mounts })) {
    const address = formatPath(sitePath(mount, path));
    const isFile = kind === "file";
    yield {
      path: isFile || address === "" ? `/${address}` : `/${address}/`,
      kind,
      mount: `/${mount.at}`,
      mediaType: isFile ? mediaTypeByName(path, selectRules(mount, path).mediaTypes) : undefined,
      fingerprinted: isFile && (await isFingerprinted(mount.names, source, path)),
      sizeBytes,
    };
  }
}
