import { toHex } from "../fields/digest-fields.js";
import type { KnownFiles } from "../represent/known-files.js";
import { knownDigest, wholeDigest } from "../represent/tag.js";
import type { OpenFiles } from "../resolve/open-files.js";
import type { Listing, ListingEntry, ListingRules } from "../rules/listing.js";
import { selectRules } from "../rules/mount.js";
import { formatListingQuery } from "./query.js";

/** A larger file has no digest in a list unless that is known, as a sealed site's is; in bytes. */
const FILE_UP_TO = 64 * 1024 * 1024;
/** How many bytes are read for one list at most; what is known is not read. */
const LIST_UP_TO = 512 * 1024 * 1024;

/** Adds the digests of a page of a listing: one file after the other, each once while it is unchanged. */
export async function addDigests(
  listing: Listing,
  directory: string,
  {
    files,
    known,
    nowSeconds,
  }: { readonly files: OpenFiles; readonly known: KnownFiles; readonly nowSeconds: number },
): Promise<Listing> {
  let left = LIST_UP_TO;
  const entries: ListingEntry[] = [];
  for (const entry of listing.entries) {
    if (entry.kind !== "file") {
      entries.push(entry);
      continue;
    }
    const path = directory === "" ? entry.name : `${directory}/${entry.name}`;
    const rules = selectRules(files.mount, path);
    const digest = await files.useFile(path, async (file) => {
      const tagged = { address: files.addressOf(path), file, rules };
      const { sizeBytes } = file.metadata;
      const found = knownDigest(known, tagged);
      if (found !== undefined || sizeBytes > Math.min(FILE_UP_TO, left)) return found;
      left -= sizeBytes;
      // What cannot be read to its end has none.
      return wholeDigest(known, tagged, nowSeconds).catch(() => undefined);
    });
    entries.push(digest === undefined ? entry : { ...entry, digest });
  }
  return { ...listing, entries };
}

/**
 * Writes digests as programs that hold files against them read it: 64 hexadecimal digits, two blanks, the name. A name with a line
 * break or a backslash is escaped, and its line begins with a backslash. What has no digest is told in a comment.
 */
export function renderDigests(
  { entries, page, pages, request }: Listing,
  { order }: Pick<ListingRules, "order">,
): string {
  const lines = entries.flatMap(({ name, kind, digest }) => {
    if (kind !== "file") return [];
    const escaped = name.replaceAll("\\", "\\\\").replaceAll("\n", "\\n").replaceAll("\r", "\\r");
    if (digest === undefined) return [`# no digest: ${escaped}\n`];
    return [`${escaped === name ? "" : "\\"}${toHex(digest)}  ${escaped}\n`];
  });
  const next = formatListingQuery({ ...request, page: page + 1 }, order).replace("?", "?digests&");
  const more = page < pages ? [`# page ${page} of ${pages}; the next one is ${next}\n`] : [];
  return [...(lines.length === 0 ? ["# no files here\n"] : lines), ...more].join("");
}
