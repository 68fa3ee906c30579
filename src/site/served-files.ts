import { isFingerprinted } from "../core/fingerprint.js";
import { decideMediaType } from "../core/media-types/media-type.js";
import { UNKNOWN_TYPE } from "../core/media-types/table.js";
import { type CompiledSite, type Mount, selectRules } from "../core/rules.js";
import { formatPath } from "../core/target.js";

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
  for (const mount of site.mountList) yield* walkMount(site, mount);
}

async function* walkMount(site: CompiledSite, mount: Mount): AsyncGenerator<ServedEntry> {
  const toAddress = (path: string): string => [mount.at, path].filter(Boolean).join("/");
  const visited = new Set<string>();
  const folders = [""];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    const address = toAddress(folder);
    if (site.mounts.find(address)?.value !== mount) continue;
    yield {
      path: address === "" ? "/" : `/${formatPath(address)}/`,
      kind: "directory",
      mount: `/${mount.at}`,
      mediaType: undefined,
      fingerprinted: false,
      sizeBytes: 0,
    };
    const entries = [...((await mount.source.list(folder)) ?? [])].sort((a, b) => (a.name < b.name ? -1 : 1));
    const inside: string[] = [];
    for (const { name, kind } of entries) {
      const path = folder === "" ? name : `${folder}/${name}`;
      const rules = selectRules(mount, path);
      if (rules.withheldBy(path) !== undefined || !isAddressable(name)) continue;
      if (site.mounts.find(toAddress(path))?.value !== mount) continue;
      if (kind !== undefined && kind !== "file" && kind !== "directory") continue;
      const metadata = kind === "directory" ? undefined : await mount.source.stat(path);
      const realPath = metadata?.realPath;
      if (realPath !== undefined && selectRules(mount, realPath).withheldBy(realPath) !== undefined) continue;
      if (kind === "directory" || metadata?.kind === "directory") {
        // A link to a folder above would be walked for ever.
        if (realPath !== undefined && visited.has(realPath)) continue;
        if (realPath !== undefined) visited.add(realPath);
        inside.push(path);
      } else if (metadata?.kind === "file") {
        yield {
          path: `/${formatPath(toAddress(path))}`,
          kind: "file",
          mount: `/${mount.at}`,
          mediaType: decideMediaType(name, rules.mediaTypes) ?? UNKNOWN_TYPE,
          fingerprinted: isFingerprinted(path),
          sizeBytes: metadata.sizeBytes,
        };
      }
    }
    folders.push(...inside.reverse());
  }
}

// A backslash, a lone surrogate or a name that is not UTF-8 is in no address that is answered.
function isAddressable(name: string): boolean {
  return !/[\\\ufffd]/.test(name) && name.isWellFormed();
}
