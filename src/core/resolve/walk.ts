import { isAddressable } from "../request/target.js";
import { type Mount, withheldIn } from "../rules/mount.js";

/** A file or directory of a mount that may be served, by its path inside it. */
export interface WalkedEntry {
  /** Without a slash at either end; `""` is the mount's own folder. */
  readonly path: string;
  readonly kind: "file" | "directory";
  /** Bytes; 0 for a directory. */
  readonly sizeBytes: number;
}

/**
 * Every file and directory of a mount that may be served, in the order of their names, folders before what is in them. What is
 * withheld, no address leads to, or `skips` names is left out, with what is below it. Nothing is opened.
 */
export async function* walkMount(
  mount: Mount,
  skips: (path: string) => boolean = () => false,
): AsyncGenerator<WalkedEntry> {
  const visited = new Set<string>();
  // Each with where it lies when links are followed: what is withheld there is withheld here.
  const folders = skips("") ? [] : [{ path: "", real: "" }];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    yield { path: folder.path, kind: "directory", sizeBytes: 0 };
    const entries = [...((await mount.source.list(folder.path)) ?? [])].sort((a, b) =>
      a.name < b.name ? -1 : 1,
    );
    const inside: { path: string; real: string }[] = [];
    for (const { name, kind } of entries) {
      const path = below(folder.path, name);
      const real = below(folder.real, name);
      if (!isAddressable(name) || isWithheld(mount, path) || isWithheld(mount, real) || skips(path)) continue;
      if (kind !== undefined && kind !== "file" && kind !== "directory") continue;
      const metadata = kind === "directory" ? undefined : await mount.source.stat(path);
      const realPath = metadata?.realPath;
      if (realPath !== undefined && isWithheld(mount, realPath)) continue;
      if (kind === "directory" || metadata?.kind === "directory") {
        // A link to a folder above would be walked for ever.
        if (realPath !== undefined && visited.has(realPath)) continue;
        if (realPath !== undefined) visited.add(realPath);
        inside.push({ path, real: realPath ?? real });
      } else if (metadata?.kind === "file") {
        yield { path, kind: "file", sizeBytes: metadata.sizeBytes };
      }
    }
    folders.push(...inside.reverse());
  }
}

const below = (folder: string, name: string): string => (folder === "" ? name : `${folder}/${name}`);

function isWithheld(mount: Mount, path: string): boolean {
  return withheldIn(mount, path) !== undefined;
}
