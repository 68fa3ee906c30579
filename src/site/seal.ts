import { resolve } from "node:path";
import { SiteError } from "../config/site-error.js";
import type { Pause } from "../core/listing/order.js";
import { mediaTypeByName } from "../core/media-types/media-type.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { type Mount, selectRules } from "../core/rules/mount.js";
import { isFingerprinted } from "../core/rules/names.js";
import type { FileSource } from "../core/source.js";
import { LiveBytes } from "../sources/sealed/live-bytes.js";
import { SealedFolder } from "../sources/sealed/sealed-folder.js";
import { type SealOptions, takeSeal } from "../sources/sealed/take-seal.js";
import { formatSeal, readSealFile, type SealedMount, writeSealFile } from "./seal-file.js";

/** The mounts of a site with their folders sealed, and what was left out of them. */
export interface SealedMounts {
  readonly mounts: readonly Mount[];
  /** Each a sentence. */
  readonly warnings: readonly string[];
}

/** Seals the folders of mounts as they are now. */
export async function sealNow(
  mounts: readonly Mount[],
  pause: Pause,
  options: Pick<SealOptions, "pieces"> = {},
): Promise<SealedMounts> {
  const warnings: string[] = [];
  const sealed: Mount[] = [];
  for (const mount of mounts) {
    const { folder, left } = await takeSeal(mount, pause, options);
    warnings.push(
      ...left.map(
        (one) =>
          `The mount at /${mount.at}: ${one}; it was not sealed, and is answered as if it did not exist.`,
      ),
    );
    sealed.push({ ...mount, source: folder, ...(await sealEarlier(mount, pause)) });
  }
  return { mounts: sealed, warnings };
}

// Releases that were there when the site was sealed: those that come later are not a sealed site's.
async function sealEarlier(mount: Mount, pause: Pause): Promise<Pick<Mount, "earlier">> {
  if (mount.earlier === undefined) return {};
  const { answers } = mount.earlier;
  const skips = async (path: string, source: FileSource): Promise<boolean> =>
    !answers?.(path) && !(await isFingerprinted(mount.names, source, path));
  const sources: SealedFolder[] = [];
  for (const source of await mount.earlier.list())
    sources.push((await takeSeal({ ...mount, source }, pause, { skips })).folder);
  return { earlier: { ...(answers && { answers }), list: () => sources } };
}

/** Seals the folders of mounts as a seal file says. Rejects with a SiteError where the file cannot be used. */
export async function sealFromFile(
  mounts: readonly Mount[],
  file: string,
  pause: Pause,
): Promise<SealedMounts> {
  const sealed = await Promise.all(
    mounts.map(async (mount) => {
      const live = (await mount.source.snapshot?.()) ?? mount.source;
      // The file says nothing of earlier releases.
      return {
        ...mount,
        source: new SealedFolder(live.name, new LiveBytes(live)),
        ...(await sealEarlier(mount, pause)),
      };
    }),
  );
  const folders = sealed.map(({ at, source }) => ({ at: `/${at}`, folder: source }));
  await readSealFile(resolve(file), file, folders, pause);
  return { mounts: sealed, warnings: [] };
}

/** Writes the seal of a site's mounts, which are sealed already. */
export async function saveSeal(
  mounts: readonly Mount[],
  out: string,
): Promise<{ files: number; bytes: number }> {
  await writeSealFile(resolve(out), mounts.map(toSealedMount));
  return countSealed(mounts);
}

/** The text of a seal file of a site's mounts, which are sealed already. */
export const formatSealOf = (mounts: readonly Mount[]): string => formatSeal(mounts.map(toSealedMount));

/** How many files were sealed, and how many bytes they have. */
export function countSealed(mounts: readonly Mount[]): { files: number; bytes: number } {
  const all = mounts.map(toSealedMount);
  const entries = all.flatMap(({ folder }) => [...folder.files.values()]);
  return { files: entries.length, bytes: entries.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0) };
}

function toSealedMount(mount: Mount): SealedMount {
  const { at, source } = mount;
  if (!(source instanceof SealedFolder)) throw new SiteError([`The mount at /${at} is not sealed.`]);
  return {
    at: `/${at}`,
    folder: source,
    typeOf: (path) => mediaTypeByName(path, selectRules(mount, path).mediaTypes),
    codings: Object.entries(CODING_ENDINGS),
  };
}
