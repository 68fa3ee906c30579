import { mediaTypeByName } from "../media-types/media-type.js";
import { formatSegment, isAddressable } from "../request/target.js";
import type { Listing, ListingEntry, ListingRequest } from "../rules/listing.js";
import { type Mount, selectRules, withheldName } from "../rules/mount.js";
import type { EntryMetadata, Failed, SourceEntry } from "../source.js";
import { joinPath } from "../text/path.js";
import { arrangeEntries } from "./arrange.js";
import { type KnownDirectories, type ListedDirectory, recallDirectory } from "./directory.js";
import { filterNames } from "./filter.js";
import type { Pause } from "./order.js";

/** Collects one page of a directory's listing. */
export async function collectListing(
  { known, pause }: { readonly known: KnownDirectories; readonly pause: Pause },
  listed: ListedDirectory,
  request: ListingRequest,
  pageSize: number,
): Promise<Listing | Failed> {
  const { path } = listed;
  const whole = await recallDirectory(known, listed, pause);
  if ("kind" in whole) return whole;
  const directory = request.filter === "" ? whole : await filterNames(whole, request.filter, pause);
  const needed = request.page * pageSize;
  const order = await arrangeEntries(listed, directory, { ...request, needed }, pause);
  const total = directory.entries.length;
  const pages = Math.max(1, Math.ceil(total / pageSize));
  const page = Math.min(request.page, pages);
  const shown = Array.from(
    order.subarray((page - 1) * pageSize, page * pageSize),
    (i) => directory.entries[i]!,
  );
  const entries = await Promise.all(shown.map((entry) => describeEntry(listed, entry)));
  return {
    path: path === "" ? "/" : `/${path}/`,
    entries,
    total,
    totalInDirectory: whole.entries.length,
    totalDirectories: directory.entries.filter(({ kind }) => kind === "directory").length,
    page,
    pages,
    pageSize,
    request: { ...request, page },
    offersDigests: false,
  };
}

async function describeEntry(
  { mount, path, directory }: ListedDirectory,
  { name }: SourceEntry,
): Promise<ListingEntry> {
  const full = joinPath(path, name);
  const metadata = hideWithheld(mount, full, await directory.stat(name));
  const kind = metadata?.kind ?? "broken";
  // RFC 3986 §4.2: a colon would make a scheme of what is before it; programs cut addresses at quotes.
  const href = isAddressable(name) ? formatSegment(name).replace(/[:']/g, escapeMark) : undefined;
  const isFile = kind === "file";
  return {
    name,
    kind,
    sizeBytes: isFile ? metadata!.sizeBytes : 0,
    modifiedMs: metadata === undefined ? undefined : Number(metadata.modifiedNs / 1_000_000n),
    mediaType: isFile ? mediaTypeByName(name, selectRules(mount, full).mediaTypes) : undefined,
    href: kind === "directory" && href !== undefined ? `${href}/` : isFile ? href : undefined,
  };
}

const escapeMark = (mark: string): string => (mark === ":" ? "%3A" : "%27");

// Of what a link leads to and is withheld, nothing is told: it looks like a link that leads nowhere.
function hideWithheld(
  mount: Mount,
  path: string,
  metadata: EntryMetadata | undefined,
): EntryMetadata | undefined {
  return withheldName(mount, path, metadata?.realPath ?? path) === undefined ? metadata : undefined;
}
