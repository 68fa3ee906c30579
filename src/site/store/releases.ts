import { setTimeout as wait } from "node:timers/promises";
import { SiteError } from "../../config/site-error.js";
import { UNFINISHED } from "../../sources/store/folder-store.js";
import type { ObjectStore } from "../../sources/store/object-store.js";
import {
  fileKey,
  type Pointer,
  readPointer,
  readSeal,
  type StoredRelease,
  sealKey,
  toHex,
  writePointer,
} from "../../sources/store/pointer.js";
import { type OnWaiting, takeTurn } from "../../sources/store/publishing.js";
import { TIMES } from "../../sources/store/times.js";
import { parseSeal } from "../seal-file.js";
import { openStore } from "./open-store.js";
import { makePresent } from "./publish.js";

/** Objects that are removed at a time. */
const AT_ONCE = 16;
/** What no release has may be a publisher's that was stopped, and goes on: it stays for this long, in milliseconds. */
const ORPHANS_MS = 24 * 60 * 60 * 1000;

/** A release of a store. */
export interface Release {
  readonly number: number;
  /** When it was published, and when it was made present last: ISO 8601. */
  readonly published: string;
  readonly lastPresent: string;
  readonly files: number;
  readonly bytes: number;
  readonly isPresent: boolean;
}

/** The releases of a store, the newest first. Rejects with a StoreError, or with a SiteError for a place that cannot be used. */
export async function listReleases(place: string): Promise<readonly Release[]> {
  const pointer = await readPointer(await openStore(place), TIMES.patient);
  return pointer === undefined ? [] : toReleases(pointer);
}

function toReleases({ present, releases }: Pointer): Release[] {
  return [...releases]
    .sort((a, b) => b.number - a.number)
    .map(({ number, published, present: lastPresent, files, bytes }) => ({
      number,
      published,
      lastPresent,
      files,
      bytes,
      isPresent: number === present,
    }));
}

/** What changing a store's releases tells on its way. */
export interface ChangeOptions {
  readonly onWaiting?: OnWaiting | undefined;
  /** Told when servers were told of the release that will be present. */
  readonly onAnnounced?: (() => void) | undefined;
}

/** Makes another release present, such as the one before. Resolves with the number of the one that was. */
export async function switchRelease(
  place: string,
  number: number,
  { onWaiting, onAnnounced = () => {} }: ChangeOptions = {},
): Promise<number | undefined> {
  const store = await openStore(place);
  const find = (pointer: Pointer | undefined): { base: Pointer; release: StoredRelease } => {
    const release = pointer?.releases.find((one) => one.number === number);
    if (pointer !== undefined && release !== undefined) return { base: pointer, release };
    const there = pointer === undefined ? [] : toReleases(pointer).map((one) => one.number);
    throw new SiteError([
      `${store.name}: there is no release ${number}; ${there.length === 0 ? "nothing was published there yet" : `it has ${there.join(", ")}`}.`,
    ]);
  };
  find(await readPointer(store, TIMES.patient));
  const turn = await takeTurn(store, onWaiting);
  try {
    const { base, release } = find(await readPointer(store, TIMES.patient));
    if (base.present !== number) await makePresent(store, { base, release, turn, onAnnounced });
    return base.present;
  } finally {
    await turn.end();
  }
}

/** Which releases stay: the newest, those that were present within a time, or either. The present one always does. */
export interface KeepOptions {
  readonly keep?: number | undefined;
  readonly withinMs?: number | undefined;
}

/** What would be removed, or was. */
export interface Removal {
  readonly releases: readonly Release[];
  /** Files that only these releases have, or none has. */
  readonly files: number;
  readonly bytes: number;
}

/** What removing older releases would remove. Nothing is changed. */
export async function planRemoval(place: string, options: KeepOptions): Promise<Removal> {
  const store = await openStore(place);
  return (await plan(store, await readPointer(store, TIMES.patient), options)).removal;
}

/** Removes older releases, and the files that no other one has. What a kept release needs stays. */
export async function removeReleases(
  place: string,
  options: KeepOptions,
  { onWaiting }: Pick<ChangeOptions, "onWaiting"> = {},
): Promise<Removal> {
  const store = await openStore(place);
  const turn = await takeTurn(store, onWaiting);
  try {
    const base = await readPointer(store, TIMES.patient);
    const { removal, removed, keys } = await plan(store, base, options);
    if (base !== undefined && removed.length > 0) {
      const gone = new Set(removed.map(({ number }) => number));
      const releases = base.releases.filter(({ number }) => !gone.has(number));
      const { next, ...rest } = base;
      const staying = next !== undefined && !gone.has(next) ? { next } : {};
      await turn.check();
      await writePointer(store, {
        ...rest,
        ...staying,
        revision: base.revision + 1,
        writer: turn.writer,
        releases,
      });
      // First nobody names them any more, then they go: a server that read the pointer before still finds them.
      await wait(TIMES.letGo);
    }
    await turn.check();
    const queue = [...keys, ...removed.map(({ seal }) => sealKey(seal))];
    await Promise.all(
      Array.from({ length: AT_ONCE }, async () => {
        for (let key = queue.shift(); key !== undefined; key = queue.shift()) await store.remove(key);
      }),
    );
    return removal;
  } finally {
    await turn.end();
  }
}

interface Plan {
  readonly removal: Removal;
  readonly removed: readonly StoredRelease[];
  /** Of the files that go. */
  readonly keys: readonly string[];
}

async function plan(
  store: ObjectStore,
  pointer: Pointer | undefined,
  { keep, withinMs }: KeepOptions,
): Promise<Plan> {
  if (pointer === undefined) return { removal: { releases: [], files: 0, bytes: 0 }, removed: [], keys: [] };
  const nowMs = Date.now();
  const newest = [...pointer.releases].sort((a, b) => b.number - a.number);
  const stays = ({ number, present }: StoredRelease, index: number): boolean =>
    number === pointer.present ||
    number === pointer.next ||
    (keep !== undefined && index < keep) ||
    (withinMs !== undefined && nowMs - Date.parse(present) <= withinMs);
  const removed = newest.filter((one, index) => !stays(one, index));
  const kept = newest.filter((one) => !removed.includes(one));
  const needed = await readFiles(store, kept);
  const going = await readFiles(store, removed);
  for (const key of needed.keys()) going.delete(key);
  for await (const { key, sizeBytes, changedMs } of store.list("files/"))
    if (!needed.has(key) && nowMs - changedMs > ORPHANS_MS) going.set(key, sizeBytes);
  for await (const { key, sizeBytes, changedMs } of store.list(UNFINISHED))
    if (nowMs - changedMs > ORPHANS_MS) going.set(key, sizeBytes);
  const numbers = new Set(removed.map(({ number }) => number));
  const removal = {
    releases: toReleases(pointer).filter(({ number }) => numbers.has(number)),
    files: going.size,
    bytes: [...going.values()].reduce((sum, size) => sum + size, 0),
  };
  return { removal, removed, keys: [...going.keys()] };
}

async function readFiles(
  store: ObjectStore,
  releases: readonly StoredRelease[],
): Promise<Map<string, number>> {
  const files = new Map<string, number>();
  for (const { seal, number } of releases) {
    const { mounts } = await parseSeal(await readSeal(store, seal, TIMES.patient), `release ${number}`);
    for (const mount of mounts)
      for (const { digest, size } of mount.files) files.set(fileKey(toHex(digest)), size);
  }
  return files;
}
