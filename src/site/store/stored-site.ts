import type { MountConfig, SiteConfig } from "../../config/config-types.js";
import { defineSite, type SiteDefinition } from "../../config/define.js";
import { parseDuration } from "../../config/durations.js";
import { trimSlashes } from "../../config/paths.js";
import { compilePattern } from "../../config/patterns.js";
import { SiteError } from "../../config/site-error.js";
import type { Answer } from "../../core/answer/plan.js";
import type { Mount } from "../../core/rules/mount.js";
import { PrefixTree } from "../../core/rules/prefix-tree.js";
import type { FileSource } from "../../core/source.js";
import { foldName } from "../../core/text/fold-name.js";
import { RELEASES_AT_MOST } from "../../sources/earlier-folders.js";
import { SealedEntry } from "../../sources/sealed/sealed-entry.js";
import type { SealedFolder } from "../../sources/sealed/sealed-folder.js";
import { StoreError } from "../../sources/store/object-store.js";
import { nameRelease, type StoredRelease } from "../../sources/store/pointer.js";
import { TIMES } from "../../sources/store/times.js";
import { assembleSite, compileSite, isDefinition } from "../compile-site.js";
import { emitWarning } from "../platform.js";
import { exchangeable, type ReloadableSite } from "../reloadable.js";
import { isFingerprintedCode } from "../seal-file.js";
import type { Site, StoreOptions, StoreState } from "../site.js";
import { type Folders, Follower } from "./follow.js";
import { openStore } from "./open-store.js";

/** How many other releases answer for their fingerprinted files, where the configuration says nothing. */
const OTHERS = 3;

/** A site whose files are those of the release that is present in a store. It changes with it, without a gap. */
export interface StoredSite extends ReloadableSite {
  readonly store: StoreState;
  /** Looks at the store no more. What is known goes on being answered. */
  close(): void;
}

/**
 * Opens a site from a release store. `define` gives the configuration, now and with each `reload`; without one, the mounts of the release
 * have the default rules. Rejects with a SiteError for what cannot be used, and with a StoreError where the store does not answer and
 * nothing is known of it.
 */
export async function openStoredSite(
  define: (() => Promise<SiteDefinition | SiteConfig | undefined>) | undefined,
  { store, cache, onNotice }: StoreOptions,
): Promise<StoredSite> {
  const tell = onNotice ?? emitWarning;
  return followStore(define, new Follower(await openStore(store), cache, tell), onNotice);
}

/** The same for a store that is open already. */
export async function followStore(
  define: (() => Promise<SiteDefinition | SiteConfig | undefined>) | undefined,
  follower: Follower,
  onNotice?: (text: string) => void,
): Promise<StoredSite> {
  const tell = onNotice ?? emitWarning;
  let definition = await define?.();
  await follower.look();
  const first = await build(definition, follower);
  const { site, use } = exchangeable(first);
  // One exchange after the other.
  let turn: Promise<void> = Promise.resolve();
  const exchange = (work: () => Promise<void>): Promise<void> => {
    const done = turn.then(work);
    turn = done.catch(() => {});
    return done;
  };
  let inUse = follower.present;
  let isBehind = follower.isIncomplete;
  const rebuild = async (): Promise<void> => {
    // Until all of it is read, each look tries again.
    isBehind = true;
    use(await build(definition, follower));
    inUse = follower.present;
    isBehind = follower.isIncomplete;
  };
  let timer: NodeJS.Timeout | undefined;
  let isClosed = false;
  let said = "";
  const lookAgain = async (): Promise<void> => {
    const { number } = inUse;
    try {
      const isOther = await follower.look();
      if (!isOther && !isBehind) return;
      await rebuild();
      said = "";
      if (inUse.number !== number) onNotice?.(`${nameRelease(follower.store, inUse.number)} is in use.`);
    } catch (error) {
      const { message } = error as Error;
      // The same is said once.
      if (message !== said) tell(`${message} ${nameRelease(follower.store, number)} goes on being served.`);
      said = message;
    }
  };
  const wait = (): void => {
    timer = setTimeout(async () => {
      await exchange(lookAgain);
      if (!isClosed) wait();
    }, TIMES.lookEvery);
    timer.unref();
  };
  wait();
  const stored = {
    reload: () =>
      exchange(async () => {
        definition = await define?.();
        follower.forgetWanted();
        await follower.look();
        await rebuild();
      }),
    close() {
      isClosed = true;
      clearTimeout(timer);
    },
  };
  const { explain } = site;
  site.explain = async (request, options) => {
    const explanation = await explain(request, options);
    return { ...explanation, bytes: sayWhere(explanation.answer, follower) };
  };
  Object.defineProperty(site, "store", { get: () => stateOf(follower, inUse), enumerable: true });
  return Object.assign(site as StoredSite, stored);
}

function sayWhere(answer: Answer, { blobs }: Follower): string | undefined {
  if (answer.kind === "pass" || answer.body.kind !== "file") return undefined;
  const { metadata } = answer.body.file;
  return metadata instanceof SealedEntry ? blobs.whereIs(metadata) : undefined;
}

function stateOf(
  { store, blobs, disk, lookedMs, failure }: Follower,
  { number, published }: StoredRelease,
): StoreState {
  return {
    place: store.name,
    release: { number, published },
    lookedMs,
    failure,
    counts: { ...blobs.counts },
    kept: { memory: blobs.memoryBytes, disk: disk?.bytes ?? 0 },
  };
}

async function build(definition: SiteDefinition | SiteConfig | undefined, follower: Follower): Promise<Site> {
  const { present } = follower;
  follower.isIncomplete = false;
  const name = nameRelease(follower.store, present.number);
  const folders = await follower.readFolders(present);
  const { config, file } =
    definition === undefined
      ? withoutRules(folders)
      : isDefinition(definition)
        ? definition
        : defineSite(definition);
  const mounts = config.mounts.map((mount) => fill(mount, folders, name));
  const { compiled, warnings: told } = await compileSite(
    { config: { ...config, mounts }, file },
    // Whoever published it was told: here each file that is looked at would come from the store.
    { inspects: false },
  );
  const warnings = told.map(({ text }) => (file === undefined ? text : `${file}: ${text}`));
  const others = await readOthers(config.mounts, follower);
  const tree = new PrefixTree<Mount>();
  for (const [index, mount] of [...compiled.mounts.values()].entries()) {
    const { sources, answers } = others[index]!;
    tree.set(
      mount.at,
      sources.length === 0
        ? mount
        : { ...mount, earlier: { list: () => sources, ...(answers && { answers }) } },
    );
    warnings.push(...noteOtherBytes(mount, sources));
  }
  const { next, releases } = follower.pointer!;
  const soon = releases.filter(({ number }) => number === next);
  // What is present in a moment is read now.
  for (const release of soon) await follower.readFolders(release).catch(() => {});
  await follower.keepOnly([present, ...soon, ...others.flatMap((one) => one.releases)]);
  return assembleSite({ ...compiled, mounts: tree }, warnings);
}

function withoutRules(folders: Folders): SiteDefinition {
  return defineSite({ mounts: [...folders].map(([at, source]) => ({ at, source })) });
}

const prefixOf = ({ at = "/" }: MountConfig): string => `/${trimSlashes(at)}`;

// The rules are the mount's own; the files, and what is known of their names, are the release's.
function fill(mount: MountConfig, folders: Folders, name: string): MountConfig {
  const { folder, links: _links, earlierReleases: _earlier, fingerprints: _names, ...rules } = mount;
  if (folder === undefined) return mount;
  const source = folders.get(prefixOf(mount));
  if (source === undefined)
    throw new SiteError([
      `The configuration has a mount at ${prefixOf(mount)}, but ${name} was published with mounts at ${[...folders.keys()].join(", ")}; publish it again with this configuration.`,
    ]);
  return { ...rules, source };
}

interface Others {
  readonly releases: readonly StoredRelease[];
  readonly sources: readonly FileSource[];
  readonly answers: ((path: string) => boolean) | undefined;
}

// The other releases of each mount. One that cannot be read answers for nothing, and is no reason to stop.
async function readOthers(mounts: readonly MountConfig[], follower: Follower): Promise<readonly Others[]> {
  const wishes = mounts.map((mount) => ({ at: prefixOf(mount), ...readWish(mount) }));
  const all = follower.listOthers();
  const nowMs = Date.now();
  return Promise.all(
    wishes.map(async ({ at, keep, withinMs, answers }) => {
      const releases = all
        .filter(
          ({ number, present }) =>
            number === follower.pointer!.next || nowMs - Date.parse(present) <= withinMs,
        )
        .slice(0, keep);
      const sources: FileSource[] = [];
      for (const release of releases) {
        const source = (await readSome(follower, release, wishes)).get(at);
        if (source !== undefined) sources.push(source);
      }
      return { releases, sources, answers };
    }),
  );
}

async function readSome(
  follower: Follower,
  release: StoredRelease,
  wishes: readonly { readonly at: string; readonly answers: ((path: string) => boolean) | undefined }[],
): Promise<Folders> {
  const answers = new Map(wishes.map((wish) => [wish.at, wish.answers]));
  try {
    return await follower.readFolders(release, (at, path) => answers.get(at)?.(path) === true);
  } catch (error) {
    if (!(error instanceof StoreError) && !(error instanceof SiteError)) throw error;
    follower.noteIncomplete(`${error.message} Its files do not answer meanwhile.`);
    return new Map();
  }
}

function readWish({ earlierReleases: written }: MountConfig): {
  keep: number;
  withinMs: number;
  answers: ((path: string) => boolean) | undefined;
} {
  if (written === undefined || Array.isArray(written))
    return { keep: OTHERS, withinMs: Number.POSITIVE_INFINITY, answers: undefined };
  const { keep = RELEASES_AT_MOST, within, files } = written as Exclude<typeof written, unknown[]>;
  const tests = files === undefined ? [] : [files].flat().map((one) => compilePattern(one).matches);
  return {
    keep: Math.min(keep, RELEASES_AT_MOST),
    withinMs: within === undefined ? Number.POSITIVE_INFINITY : parseDuration(within)! * 1000,
    answers: tests.length === 0 ? undefined : (path) => tests.some((matches) => matches(foldName(path))),
  };
}

// A fingerprinted name that stands for other bytes in another release is revalidated: the digests are known, no byte is read.
function noteOtherBytes({ at, source, names }: Mount, others: readonly FileSource[]): string[] {
  const { files } = source as SealedFolder;
  if (files === undefined) return [];
  return (others as readonly SealedFolder[]).flatMap((other) => {
    const paths = [...other.files].flatMap(([path, { digest }]) => {
      const own = files.get(path);
      return own !== undefined && isFingerprintedCode(own.name) && own.digest !== digest ? [path] : [];
    });
    for (const path of paths) names?.noteChanged(path, `in ${other.name}`);
    const [first, ...more] = paths;
    if (first === undefined) return [];
    const rest = more.length === 0 ? "" : ` and ${more.length} more`;
    return [
      `The mount at /${at}: ${first}${rest} has other bytes in ${other.name}, although its name has a fingerprint, so that it is revalidated; let the build make the name from the content.`,
    ];
  });
}
