import { decideMediaType } from "../core/media-types/media-type.js";
import { UNKNOWN_TYPE } from "../core/media-types/table.js";
import { formatPath } from "../core/request/target.js";
import { isFingerprinted } from "../core/rules/fingerprint.js";
import { type CompiledSite, type Mount, selectRules } from "../core/rules/rules.js";
import { walkMount } from "./walk.js";

/** A file or directory that the site offers, by its address. */
export interface ServedEntry {
  /** Its own address, escaped, from the site's root; a directory's ends with a slash. */
  readonly path: string;
  readonly kind: "file" | "directory";
  /** Prefix of the mount it belongs to. */
  readonly mount: string;
  /** Media type by its name; undefined for a directory. */
  readonly mediaType: string | undefined;
  /** True for a name that bundlers made. */
  readonly fingerprinted: boolean;
  /** Bytes; 0 for a directory. */
  readonly sizeBytes: number;
}

/**
 * Every file and directory that the site offers, in the order of their names: what is withheld, or hidden by another mount,
 * is left out. Nothing is opened.
 */
export async function* walkServed(site: CompiledSite): AsyncGenerator<ServedEntry> {
  for (const mount of site.mountList) yield* walkServedMount(site, mount);
}

async function* walkServedMount(site: CompiledSite, mount: Mount): AsyncGenerator<ServedEntry> {
  const toAddress = (path: string): string => [mount.at, path].filter(Boolean).join("/");
  const isAnothers = (path: string): boolean => site.mounts.find(toAddress(path))?.value !== mount;
  for await (const { path, kind, sizeBytes } of walkMount(mount, isAnothers)) {
    const address = formatPath(toAddress(path));
    const isFile = kind === "file";
    yield {
      path: isFile || address === "" ? `/${address}` : `/${address}/`,
      kind,
      mount: `/${mount.at}`,
      mediaType: isFile
        ? (decideMediaType(path, selectRules(mount, path).mediaTypes) ?? UNKNOWN_TYPE)
        : undefined,
      fingerprinted: isFile && isFingerprinted(path),
      sizeBytes,
    };
  }
}
