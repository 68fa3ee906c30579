import { decideMediaType } from "../media-types/media-type.js";
import { UNKNOWN_TYPE } from "../media-types/table.js";
import { CODING_ENDINGS } from "../represent/coding.js";
import { formatSegment } from "../request/target.js";
import { type Mount, type Rules, selectRules } from "../rules/rules.js";
import type { EntryMetadata, ListingRequest, Order, SourceEntry } from "./entry.js";
import { makeNameKey, type Pause, selectFirst, sortIndexes } from "./order.js";

/** A row of a listing, as plain data. */
export interface ListingEntry {
  readonly name: string;
  readonly kind: EntryMetadata["kind"];
  /** Bytes; 0 for what is no file. */
  readonly sizeBytes: number;
  /** Milliseconds since the epoch; undefined when it cannot be known. */
  readonly modifiedMs: number | undefined;
  /** Undefined for what is no file. */
  readonly mediaType: string | undefined;
  /** Relative address; undefined for what cannot be had. */
  readonly href: string | undefined;
}

/** A page of a listing, as plain data: what each rendering starts from. */
export interface Listing {
  /** The directory's path from the mount's root, decoded, with a slash at each end. */
  readonly path: string;
  readonly entries: readonly ListingEntry[];
  readonly total: number;
  readonly totalDirectories: number;
  readonly page: number;
  readonly pages: number;
  readonly pageSize: number;
  readonly request: ListingRequest;
}

/** What is known of a directory for as long as its own time stands: names, and the orders that were asked for. */
interface Known {
  readonly version: string;
  readonly entries: readonly SourceEntry[];
  readonly nameKeys: readonly string[];
  readonly orders: Map<string, Uint32Array>;
  metadata: readonly (EntryMetadata | undefined)[] | undefined;
}

/** How many entries are kept in mind for one set of rules, over all its directories; the newest directory stays in any case. */
const REMEMBERED_ENTRIES = 200_000;
const STEP = 2048;
const known = new WeakMap<Rules, Map<string, Known>>();

/** Collects one page of a directory's listing. Undefined when the directory cannot be read. */
export async function collectListing(
  mount: Mount,
  rules: Rules,
  path: string,
  request: ListingRequest,
  pageSize: number,
  pause: Pause,
): Promise<Listing | undefined> {
  const directory = await recall(mount, rules, path, pause);
  if (directory === undefined) return undefined;
  const order = await orderEntries(mount, rules, path, directory, request, request.page * pageSize, pause);
  const total = directory.entries.length;
  const pages = Math.max(1, Math.ceil(total / pageSize));
  const page = Math.min(request.page, pages);
  const shown = Array.from(
    order.subarray((page - 1) * pageSize, page * pageSize),
    (i) => directory.entries[i]!,
  );
  const entries = await Promise.all(shown.map((entry) => describeEntry(mount, path, entry)));
  return {
    path: path === "" ? "/" : `/${path}/`,
    entries,
    total,
    totalDirectories: directory.entries.filter(({ kind }) => kind === "directory").length,
    page,
    pages,
    pageSize,
    request: { ...request, page },
  };
}

async function recall(mount: Mount, rules: Rules, path: string, pause: Pause): Promise<Known | undefined> {
  const version = await mount.source.version(path);
  let directories = known.get(rules);
  if (directories === undefined) {
    directories = new Map();
    known.set(rules, directories);
  }
  const key = `${mount.at}\0${path}`;
  const before = directories.get(key);
  if (before !== undefined && before.version === version) return before;

  const all = await mount.source.list(path);
  if (all === undefined) return undefined;
  const entries: SourceEntry[] = [];
  const nameKeys: string[] = [];
  const names = new Set(rules.codings.prebuilt.length === 0 ? [] : all.map(({ name }) => name));
  for (const [index, entry] of all.entries()) {
    if (index % STEP === STEP - 1) await pause();
    if (!isListed(rules, mount, path, entry.name, names)) continue;
    entries.push(entry);
    nameKeys.push(`${entry.kind === "directory" ? "0" : "1"}${makeNameKey(entry.name)}`);
  }
  const directory: Known = {
    version: version ?? "",
    entries,
    nameKeys,
    orders: new Map(),
    metadata: undefined,
  };
  directories.delete(key);
  directories.set(key, directory);
  forgetOldest(directories);
  return directory;
}

function forgetOldest(directories: Map<string, Known>): void {
  let kept = 0;
  for (const { entries } of directories.values()) kept += entries.length + 1;
  for (const [key, { entries }] of directories) {
    if (kept <= REMEMBERED_ENTRIES || directories.size === 1) return;
    directories.delete(key);
    kept -= entries.length + 1;
  }
}

// Withheld names are never told; unlisted ones and prebuilt codings are not listed.
function isListed(
  rules: Rules,
  mount: Mount,
  path: string,
  name: string,
  names: ReadonlySet<string>,
): boolean {
  // A name that is not UTF-8 comes with a replacement character, and no address leads to it.
  if (name.includes("\ufffd")) return false;
  const full = path === "" ? name : `${path}/${name}`;
  const own = mount.allRules.length > 1 ? selectRules(mount, full) : rules;
  if (own.withheldBy(full) !== undefined || rules.unlistedBy(full) !== undefined) return false;
  return !rules.codings.prebuilt.some((coding) => {
    const ending = CODING_ENDINGS[coding];
    return name.endsWith(ending) && names.has(name.slice(0, -ending.length));
  });
}

async function orderEntries(
  mount: Mount,
  rules: Rules,
  path: string,
  directory: Known,
  { order, descending }: ListingRequest,
  needed: number,
  pause: Pause,
): Promise<Uint32Array> {
  const key = `${order}${descending ? "-" : ""}`;
  const before = directory.orders.get(key);
  if (before !== undefined && (before.length >= needed || before.length === directory.entries.length))
    return before;
  const whole = directory.orders.get(order);
  const isWhole = whole?.length === directory.entries.length;
  const keys = isWhole ? [] : await makeKeys(mount, rules, path, directory, order, pause);
  if (!descending && needed * 20 < keys.length) {
    const first = await selectFirst(keys, needed, pause);
    directory.orders.set(order, first);
    return first;
  }
  const ascending = isWhole ? whole : await sortIndexes(keys, pause);
  directory.orders.set(order, ascending);
  if (!descending) return ascending;
  // Folders stay first; each group is turned around.
  const firstFile = ascending.findIndex((i) => directory.entries[i]!.kind !== "directory");
  const edge = firstFile < 0 ? ascending.length : firstFile;
  const turned = new Uint32Array(ascending.length);
  turned.set(ascending.slice(0, edge).reverse());
  turned.set(ascending.slice(edge).reverse(), edge);
  directory.orders.set(key, turned);
  return turned;
}

async function makeKeys(
  mount: Mount,
  rules: Rules,
  path: string,
  directory: Known,
  order: Order,
  pause: Pause,
): Promise<readonly string[]> {
  const { entries, nameKeys } = directory;
  if (order === "name") return nameKeys;
  // Size and time want the metadata of all; it is kept for as long as the directory stands.
  if (order !== "kind") directory.metadata ??= await readMetadata(mount, path, entries, pause);
  const { metadata } = directory;
  const describeValue = (i: number): string => {
    if (order === "kind") return decideMediaType(entries[i]!.name, rules.mediaTypes) ?? UNKNOWN_TYPE;
    const value = order === "size" ? metadata?.[i]?.sizeBytes : metadata?.[i]?.modifiedNs;
    return (value ?? 0).toString().padStart(20, "0");
  };
  const keys: string[] = [];
  for (const [i, nameKey] of nameKeys.entries()) {
    keys.push(`${nameKey[0]}${describeValue(i)}\0${nameKey}`);
    if (i % STEP === STEP - 1) await pause();
  }
  return keys;
}

async function readMetadata(
  mount: Mount,
  path: string,
  entries: readonly SourceEntry[],
  pause: Pause,
): Promise<(EntryMetadata | undefined)[]> {
  const metadata: (EntryMetadata | undefined)[] = [];
  for (let start = 0; start < entries.length; start += 256) {
    const some = entries.slice(start, start + 256);
    metadata.push(
      ...(await Promise.all(
        some.map(({ name }) => mount.source.stat(path === "" ? name : `${path}/${name}`)),
      )),
    );
    await pause();
  }
  return metadata;
}

async function describeEntry(mount: Mount, path: string, { name }: SourceEntry): Promise<ListingEntry> {
  const full = path === "" ? name : `${path}/${name}`;
  const metadata = hideWithheld(mount, await mount.source.stat(full));
  const kind = metadata?.kind ?? "broken";
  // RFC 3986 §4.2: the leading "./" keeps a name with a colon from being read as a scheme.
  const href = isAddressable(name) ? `./${formatSegment(name)}` : undefined;
  const isFile = kind === "file";
  return {
    name,
    kind,
    sizeBytes: isFile ? metadata!.sizeBytes : 0,
    modifiedMs: metadata === undefined ? undefined : Number(metadata.modifiedNs / 1_000_000n),
    mediaType: isFile
      ? (decideMediaType(name, selectRules(mount, full).mediaTypes) ?? UNKNOWN_TYPE)
      : undefined,
    href: kind === "directory" && href !== undefined ? `${href}/` : isFile ? href : undefined,
  };
}

// Of what a link leads to and is withheld, nothing is told: it looks like a link that leads nowhere.
function hideWithheld(mount: Mount, metadata: EntryMetadata | undefined): EntryMetadata | undefined {
  const realPath = metadata?.realPath;
  if (realPath === undefined || selectRules(mount, realPath).withheldBy(realPath) === undefined)
    return metadata;
  return undefined;
}

// A backslash, or a lone surrogate, is in no address that is answered.
function isAddressable(name: string): boolean {
  return !name.includes("\\") && name.isWellFormed();
}
