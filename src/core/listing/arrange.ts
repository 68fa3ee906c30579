import { mediaTypeByName } from "../media-types/media-type.js";
import type { ListingRequest, Order } from "../rules/listing.js";
import { selectRules } from "../rules/mount.js";
import type { EntryMetadata, OpenedDirectory, SourceEntry } from "../source.js";
import { type KnownDirectory, type ListedDirectory, STEP } from "./directory.js";
import { makeNameKey, type Pause, selectFirst, sortIndexes } from "./order.js";

/**
 * The indexes of a directory's entries in the order that is asked for, the first `needed` of them at least. Orders by name and
 * kind are kept with the names; size and time are asked for each time, because a write to a file does not show in its directory.
 */
export async function arrangeEntries(
  listed: ListedDirectory,
  known: KnownDirectory,
  { order, descending, needed }: Pick<ListingRequest, "order" | "descending"> & { readonly needed: number },
  pause: Pause,
): Promise<Uint32Array> {
  const { entries } = known;
  const lasts = order === "name" || order === "kind";
  const orders = lasts ? known.orders : new Map<string, Uint32Array>();
  const key = `${order}${descending ? "-" : ""}`;
  const before = orders.get(key);
  if (before !== undefined && before.length >= Math.min(needed, entries.length)) return before;

  let ascending = orders.get(order);
  if (ascending?.length !== entries.length) {
    const keyOf = await makeKeys(listed, entries, order, pause);
    if (!descending && needed * 20 < entries.length) {
      const first = await selectFirst({ total: entries.length, keyOf }, needed, pause);
      orders.set(order, first);
      return first;
    }
    ascending = await sortIndexes(await makeAll(keyOf, entries.length, pause), pause);
    orders.set(order, ascending);
  }
  if (!descending) return ascending;
  const turned = turnAround(ascending, entries);
  orders.set(key, turned);
  return turned;
}

// Folders stay first; each group is turned around.
function turnAround(ascending: Uint32Array, entries: readonly SourceEntry[]): Uint32Array {
  const firstFile = ascending.findIndex((i) => entries[i]!.kind !== "directory");
  const edge = firstFile < 0 ? ascending.length : firstFile;
  const turned = new Uint32Array(ascending.length);
  turned.set(ascending.slice(0, edge).reverse());
  turned.set(ascending.slice(edge).reverse(), edge);
  return turned;
}

// What an entry is ordered by: folders first, then what is asked for, then its name.
async function makeKeys(
  { mount, path, directory }: ListedDirectory,
  entries: readonly SourceEntry[],
  order: Order,
  pause: Pause,
): Promise<(i: number) => string> {
  const group = (i: number): string => (entries[i]!.kind === "directory" ? "0" : "1");
  const nameKey = (i: number): string => makeNameKey(entries[i]!.name);
  if (order === "name") return (i) => group(i) + nameKey(i);
  if (order === "kind") {
    const { mediaTypes } = selectRules(mount, path);
    return (i) => `${group(i)}${mediaTypeByName(entries[i]!.name, mediaTypes)}\0${nameKey(i)}`;
  }
  const metadata = await readMetadata(directory, entries, pause);
  const orderValue = (one: EntryMetadata | undefined): number | bigint =>
    (order === "size" ? one?.sizeBytes : one?.modifiedNs) ?? 0;
  return (i) => `${group(i)}${orderValue(metadata[i]).toString().padStart(20, "0")}\0${nameKey(i)}`;
}

async function makeAll(
  keyOf: (i: number) => string,
  total: number,
  pause: Pause,
): Promise<readonly string[]> {
  const keys: string[] = [];
  for (let i = 0; i < total; i++) {
    keys.push(keyOf(i));
    if (i % STEP === STEP - 1) await pause();
  }
  return keys;
}

async function readMetadata(
  directory: OpenedDirectory,
  entries: readonly SourceEntry[],
  pause: Pause,
): Promise<(EntryMetadata | undefined)[]> {
  const metadata: (EntryMetadata | undefined)[] = [];
  for (let start = 0; start < entries.length; start += 256) {
    const some = entries.slice(start, start + 256);
    metadata.push(...(await Promise.all(some.map(({ name }) => directory.stat(name)))));
    await pause();
  }
  return metadata;
}
