import { setTimeout as wait } from "node:timers/promises";
import type { SiteConfig } from "../../config/config-types.js";
import { defineSite, type SiteDefinition } from "../../config/define.js";
import { SiteError } from "../../config/site-error.js";
import type { Mount } from "../../core/rules/mount.js";
import type { SealedEntry } from "../../sources/sealed/sealed-entry.js";
import { SealedFolder } from "../../sources/sealed/sealed-folder.js";
import { type ObjectStore, StoreError } from "../../sources/store/object-store.js";
import {
  fileKey,
  NO_RELEASES,
  type Pointer,
  readPointer,
  readSeal,
  type StoredRelease,
  sealKey,
  sha256,
  toBody,
  toHex,
  writePointer,
} from "../../sources/store/pointer.js";
import { type Turn, takeTurn } from "../../sources/store/publishing.js";
import { TIMES } from "../../sources/store/times.js";
import { compileSite, isDefinition } from "../compile-site.js";
import { countSealed, formatSealOf } from "../seal.js";
import { parseSeal } from "../seal-file.js";
import { openStore } from "./open-store.js";

/** Files that are written at a time. */
const AT_ONCE = 16;
/** The newest releases whose files are known to be there. */
const KNOWN_RELEASES = 5;
/** What a file is read in while it is written, in bytes. */
const CHUNK_BYTES = 1024 * 1024;

/** What publishing tells on its way. */
export type PublishProgress =
  | { readonly kind: "waiting"; readonly text: string }
  | { readonly kind: "sending"; readonly files: number; readonly of: number; readonly bytes: number }
  | { readonly kind: "announced"; readonly number: number };

/** How a site is published. */
export interface PublishOptions {
  /** A folder, or `s3://BUCKET/PREFIX`. */
  readonly store: string;
  readonly onProgress?: ((progress: PublishProgress) => void) | undefined;
}

/** A release that was published. */
export interface Published {
  readonly number: number;
  /** The release that was present before. */
  readonly before: number | undefined;
  /** False where the present release, or an earlier one, has the very same files: that one is present now. */
  readonly isNew: boolean;
  readonly files: number;
  readonly bytes: number;
  /** What had to be sent. */
  readonly sent: { readonly files: number; readonly bytes: number };
  /** What was left out, and the warnings about the site: a sentence each. */
  readonly warnings: readonly string[];
}

/**
 * Publishes the files of a site: each once, under its digest, then the seal, and last the pointer. Rejects with a SiteError where the
 * site cannot be sealed, and with a StoreError where the store fails or another publisher is at work; what was present stays present then.
 */
export async function publish(
  definition: SiteDefinition | SiteConfig,
  { store: place, onProgress = () => {} }: PublishOptions,
): Promise<Published> {
  const store = await openStore(place);
  const {
    compiled,
    warnings: told,
    file,
  } = await compileSite(withoutEarlier(definition), { seal: true, pieces: true });
  const mounts = compiled.mounts.values().filter(({ source }) => source instanceof SealedFolder);
  if (mounts.length === 0)
    throw new SiteError([
      "publish: found no mount with a folder; files of a source of your own are not published: write folder.",
    ]);
  const warnings = told.map(({ text }) => (file === undefined ? text : `${file}: ${text}`));
  return { ...(await publishMounts(store, mounts, onProgress)), warnings };
}

// The store has its own.
function withoutEarlier(definition: SiteDefinition | SiteConfig): SiteDefinition {
  const { config, file } = isDefinition(definition) ? definition : defineSite(definition);
  return {
    config: { ...config, mounts: config.mounts.map(({ earlierReleases: _earlier, ...mount }) => mount) },
    file,
  };
}

/** Publishes mounts that are sealed already, with the digests of their pieces. */
export async function publishMounts(
  store: ObjectStore,
  mounts: readonly Mount[],
  onProgress: (progress: PublishProgress) => void = () => {},
): Promise<Omit<Published, "warnings">> {
  const text = formatSealOf(mounts);
  const turn = await takeTurn(store, (waiting) => onProgress({ kind: "waiting", text: waiting }));
  try {
    const base = (await readPointer(store, TIMES.patient)) ?? NO_RELEASES;
    const seal = sha256(Buffer.from(text));
    const same = base.releases.find((one) => one.seal === seal);
    const sent =
      same === undefined ? await transferMissing(store, { mounts, base, turn, onProgress }) : NOTHING;
    if (same === undefined) await store.write(sealKey(seal), toBody(Buffer.from(text)));
    const number = same?.number ?? base.last + 1;
    const now = new Date().toISOString();
    const { files, bytes } = same ?? countSealed(mounts);
    const release: StoredRelease = same ?? { number, seal, published: now, present: now, files, bytes };
    const onAnnounced = (): void => onProgress({ kind: "announced", number });
    if (base.present !== number) await makePresent(store, { base, release, turn, onAnnounced });
    return { number, before: base.present, isNew: same === undefined, files, bytes, sent };
  } finally {
    await turn.end();
  }
}

const NOTHING = { files: 0, bytes: 0 };

interface Sending {
  readonly mounts: readonly Mount[];
  readonly base: Pointer;
  readonly turn: Turn;
  readonly onProgress: (progress: PublishProgress) => void;
}

/** A file to send: the first path that has these bytes. */
interface Wanted {
  readonly path: string;
  readonly folder: SealedFolder;
  readonly entry: SealedEntry;
}

async function transferMissing(
  store: ObjectStore,
  { mounts, base, turn, onProgress }: Sending,
): Promise<{ files: number; bytes: number }> {
  const known = await readKnown(store, base);
  const wanted = new Map<string, Wanted>();
  for (const { source } of mounts)
    for (const [path, entry] of (source as SealedFolder).files)
      if (!known.has(entry.digest)) wanted.set(entry.digest, { path, folder: source as SealedFolder, entry });
  const queue = [...wanted.values()];
  const of = queue.length;
  const sent = { files: 0, bytes: 0 };
  let failure: unknown;
  const work = async (): Promise<void> => {
    for (let one = queue.pop(); one !== undefined && failure === undefined; one = queue.pop()) {
      try {
        const isSent = await transfer(store, one);
        if (isSent) {
          sent.files++;
          sent.bytes += one.entry.sizeBytes;
        }
        onProgress({ kind: "sending", files: of - queue.length, of, bytes: sent.bytes });
      } catch (error) {
        failure = error;
      }
    }
  };
  await Promise.all(Array.from({ length: Math.min(AT_ONCE, of) }, work));
  if (failure !== undefined) throw failure;
  await turn.check();
  return sent;
}

// What the newest releases have is there: nobody removes files while a release is kept that has them.
async function readKnown(store: ObjectStore, { releases }: Pointer): Promise<ReadonlySet<string>> {
  const known = new Set<string>();
  const newest = [...releases].sort((a, b) => b.number - a.number).slice(0, KNOWN_RELEASES);
  for (const { seal, number } of newest) {
    const { mounts } = await parseSeal(await readSeal(store, seal, TIMES.patient), `release ${number}`);
    for (const { files } of mounts) for (const { digest } of files) known.add(digest);
  }
  return known;
}

// A publisher that was stopped may have sent it already.
async function transfer(store: ObjectStore, { path, folder, entry }: Wanted): Promise<boolean> {
  const hex = toHex(entry.digest);
  const key = fileKey(hex);
  if ((await store.sizeOf(key)) === entry.sizeBytes) return false;
  const { sizeBytes } = entry;
  await store.write(key, { sizeBytes, digest: hex, open: () => readSealed(folder, path) });
  return true;
}

async function* readSealed(folder: SealedFolder, path: string): AsyncGenerator<Uint8Array> {
  const found = await folder.open(path);
  if (found.kind !== "file")
    throw new StoreError(
      `${path} was changed while it was published; publish again when the build is done.`,
      {
        isTemporary: false,
      },
    );
  const { file } = found;
  try {
    const { sizeBytes } = file.metadata;
    for (let offset = 0; offset < sizeBytes; offset += CHUNK_BYTES)
      yield await file.read(offset, Math.min(CHUNK_BYTES, sizeBytes - offset));
  } finally {
    file.close();
  }
}

interface Present {
  readonly base: Pointer;
  readonly release: StoredRelease;
  readonly turn: Turn;
  readonly onAnnounced: () => void;
}

/**
 * Makes a release present. Servers are told first, so that each answers for its fingerprinted files before any answers with its pages.
 * Rejects with a StoreError where somebody else changed the store.
 */
export async function makePresent(
  store: ObjectStore,
  { base, release, turn, onAnnounced }: Present,
): Promise<void> {
  const { writer } = turn;
  const releases = [...base.releases.filter(({ number }) => number !== release.number), release];
  const last = Math.max(base.last, release.number);
  let { revision } = base;
  const started = performance.now();
  if (base.present !== undefined) {
    await writePointer(store, {
      ...base,
      revision: ++revision,
      writer,
      last,
      releases,
      next: release.number,
    });
    onAnnounced();
    // A slow store is slow for the servers, too: they read the pointer, then the seal.
    await wait(TIMES.announced + 4 * (performance.now() - started));
  }
  await turn.check();
  const present = { ...release, present: new Date().toISOString() };
  const { next: _next, ...rest } = base;
  await writePointer(store, {
    ...rest,
    revision: ++revision,
    writer,
    last,
    present: release.number,
    releases: releases.map((one) => (one.number === release.number ? present : one)),
  });
  await wait(store.settlesMs);
  const now = await readPointer(store, TIMES.patient);
  if (now?.present !== release.number)
    throw new StoreError(
      `${store.name}: another publisher made release ${now?.present} present in this moment; release ${release.number} is there, and is not present.`,
      { isTemporary: false },
    );
}
