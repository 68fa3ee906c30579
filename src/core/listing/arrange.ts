import { mediaTypeByName } from "../media-types/media-type.js";
import type { ListingRequest, Order } from "../rules/listing.js";
import { selectRules } from "../rules/mount.js";
import type { EntryMetadata, OpenedDirectory, SourceEntry } from "../source.js";
import { type KnownDirectory, type ListedDirectory, STEP } from "./directory.js";
import { type Pause, selectFirst, sortIndexes } from "./order.js";

/**
 * The indexes of a directory's entries in the order that is asked for, the first `needed` of them at least. Orders by name and
 * kind are kept with the names; size and time are asked for each time, since a write to a file does not show in its directory.
 */
export async function arrangeEntries(
  listed: ListedDirectory,
  known: KnownDirectory,
  { order, descending, needed }: Pick<ListingRequest, "order" | "descending"> & { readonly needed: number },
  pause: Pause,
): Promise<Uint32Array> {
  const { entries, nameKeys } = known;
  const lasts = order === "name" || order === "kind";
  const orders = lasts ? known.orders : new Map<string, Uint32Array>();
  const key = `${order}${descending ? "-" : ""}`;
  const before = orders.get(key);
  if (before !== undefined && before.length >= Math.min(needed, entries.length)) return before;

  const whole = orders.get(order);
  const isWhole = whole?.length === entries.length;
  const keys = isWhole
    ? []
    : await makeKeys(await makeDescriber(listed, entries, order, pause), nameKeys, pause);
  if (!descending && needed * 20 < keys.length) {
    const first = await selectFirst(keys, needed, pause);
    orders.set(order, first);
    return first;
  }
  const ascending = isWhole ? whole : await sortIndexes(keys, pause);
  orders.set(order, ascending);
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

// What an entry is ordered by before its name; undefined for the name alone.
async function makeDescriber(
  { mount, path, directory }: ListedDirectory,
  entries: readonly SourceEntry[],
  order: Order,
  pause: Pause,
): Promise<((i: number) => string) | undefined> {
  if (order === "name") return undefined;
  if (order === "kind") {
    const { mediaTypes } = selectRules(mount, path);
    return (i) => mediaTypeByName(entries[i]!.name, mediaTypes);
  }
  const metadata = await readMetadata(directory, entries, pause);
  const orderValueOf = (one: EntryMetadata | undefined): number | bigint =>
    (order === "size" ? one?.sizeBytes : one?.modifiedNs) ?? 0;
  return (i) => orderValueOf(metadata[i]).toString().padStart(20, "0");
}

async function makeKeys(
  describe: ((i: number) => string) | undefined,
  nameKeys: readonly string[],
  pause: Pause,
): Promise<readonly string[]> {
  if (describe === undefined) return nameKeys;
  const keys: string[] = [];
  for (const [i, nameKey] of nameKeys.entries()) {
    keys.push(`${nameKey[0]}${describe(i)}\0${nameKey}`);
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
