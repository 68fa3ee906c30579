import { createHash } from "node:crypto";
import { distance } from "fastest-levenshtein";
import { releasePlan } from "../../core/answer/plan.js";
import { unescapeText } from "../../core/text/unescape.js";
import { readPage, titleOf } from "../../reading/pages/page.js";
import { inSlices } from "../../reading/slices.js";
import { decodeText } from "../../reading/text.js";
import type { Release, ReleaseFile } from "./release.js";

/** Why a guess is probable. */
export type Likeness = "the same content" | "the same title" | "a near name";

/** Where content probably is now, and why. */
export interface Guess {
  readonly address: string;
  readonly because: Likeness;
}

/** Finds for lost files where they probably are now: by their bytes, by the title of a page, by their names. */
export async function guessNew(
  lost: readonly ReleaseFile[],
  before: Release,
  now: Release,
): Promise<ReadonlyMap<ReleaseFile, Guess>> {
  const guesses = new Map<ReleaseFile, Guess>();
  // What was there before is itself, and no lost file under another name.
  const fresh = [...now.files.values()].filter(
    ({ address, fingerprinted }) => !fingerprinted && !before.files.has(address),
  );
  const add = (file: ReleaseFile, found: ReleaseFile | undefined, because: Likeness): void => {
    if (found !== undefined && !guesses.has(file)) guesses.set(file, { address: found.address, because });
  };
  for (const [file, found] of await matchBytes(lost, fresh, before, now))
    add(file, found, "the same content");
  const rest = (): ReleaseFile[] => lost.filter((file) => !guesses.has(file));
  for (const [file, found] of await matchTitles(rest(), fresh, before, now))
    add(file, found, "the same title");
  const byName = indexNames(fresh);
  for (const file of rest()) add(file, findName(file, byName), "a near name");
  return guesses;
}

type Match = readonly [file: ReleaseFile, found: ReleaseFile | undefined];

// Only files of one size can have the same bytes.
async function matchBytes(
  lost: readonly ReleaseFile[],
  fresh: readonly ReleaseFile[],
  before: Release,
  now: Release,
): Promise<Match[]> {
  const bySize = groupBy(fresh, ({ sizeBytes }) => sizeBytes);
  const digests = new Map<ReleaseFile, string | undefined>();
  const digest = async (file: ReleaseFile, release: Release): Promise<string | undefined> => {
    if (!digests.has(file)) digests.set(file, file.digest ?? (await digestOf(file, release)));
    return digests.get(file);
  };
  const matches: Match[] = [];
  for (const file of lost) {
    if (file.sizeBytes === 0) continue;
    const candidates = bySize.get(file.sizeBytes) ?? [];
    const own = candidates.length === 0 ? undefined : await digest(file, before);
    if (own === undefined) continue;
    const same: ReleaseFile[] = [];
    for (const one of candidates) if ((await digest(one, now)) === own) same.push(one);
    matches.push([file, nearest(file, same)]);
  }
  return matches;
}

async function digestOf(file: ReleaseFile, release: Release): Promise<string | undefined> {
  const hash = createHash("sha256");
  const isWhole = await readPieces(file, release, Number.POSITIVE_INFINITY, (bytes) => hash.update(bytes));
  return isWhole ? hash.digest("base64url") : undefined;
}

const PIECE_BYTES = 1024 * 1024;

/** Reads a file's bytes up to a limit; false when it cannot be read. */
async function readPieces(
  { address }: ReleaseFile,
  { site, hasBytes }: Release,
  limit: number,
  take: (bytes: Uint8Array) => void,
): Promise<boolean> {
  if (!hasBytes) return false;
  const answer = await site.respond({ method: "GET", target: address, headers: {} });
  if (answer.kind === "pass" || answer.status !== 200) {
    releasePlan(answer);
    return false;
  }
  try {
    const { body } = answer;
    if (body.kind === "bytes") take(body.bytes);
    if (body.kind === "file") {
      const size = Math.min(body.file.metadata.sizeBytes, limit);
      for (let at = 0; at < size; at += PIECE_BYTES)
        take(await body.file.read(at, Math.min(PIECE_BYTES, size - at)));
    }
    return true;
  } catch {
    return false;
  } finally {
    releasePlan(answer);
  }
}

/** A title stands near the beginning of a page; more of it is not read, in bytes. */
const TITLE_WITHIN = 64 * 1024;

// A title that several pages have tells none of them.
async function matchTitles(
  lost: readonly ReleaseFile[],
  fresh: readonly ReleaseFile[],
  before: Release,
  now: Release,
): Promise<Match[]> {
  const pages = (files: readonly ReleaseFile[]): ReleaseFile[] =>
    files.filter(({ mediaType }) => /html/.test(mediaType));
  if (pages(lost).length === 0 || !before.hasBytes || !now.hasBytes) return [];
  const byTitle = new Map<string, ReleaseFile[]>();
  for (const page of pages(fresh)) {
    const title = await readTitle(page, now);
    if (title !== "") byTitle.set(title, [...(byTitle.get(title) ?? []), page]);
  }
  const matches: Match[] = [];
  for (const page of pages(lost)) {
    const found = byTitle.get(await readTitle(page, before)) ?? [];
    if (found.length === 1) matches.push([page, found[0]]);
  }
  return matches;
}

async function readTitle(file: ReleaseFile, release: Release): Promise<string> {
  const pieces: Uint8Array[] = [];
  await readPieces(file, release, TITLE_WITHIN, (bytes) => pieces.push(bytes));
  const { text } = decodeText(Buffer.concat(pieces));
  const title = titleOf(await inSlices(readPage(text, false)));
  return title.replace(/\s+/g, " ").trim();
}

/** Files by the extension and the length of their names: only those of about one length can be near. */
type Names = ReadonlyMap<string, readonly { readonly name: string; readonly file: ReleaseFile }[]>;

function indexNames(files: readonly ReleaseFile[]): Names {
  return groupBy(
    files.map((file) => ({ name: nameOf(file), file })),
    ({ name, file }) => `${extensionOf(file)} ${name.length}`,
  );
}

// A page that is its folder's default document is known by the folder's name.
function nameOf({ address }: ReleaseFile): string {
  const path = unescapeText(address)
    .replace(/\/index\.x?html?$/i, "")
    .replace(/\.[^./]*$/, "");
  return path
    .slice(path.lastIndexOf("/") + 1)
    .normalize("NFC")
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, "");
}

function extensionOf({ address }: ReleaseFile): string {
  const extension = /\.([^./]*)$/.exec(address)?.[1]?.toLowerCase() ?? "";
  return { htm: "html", xhtml: "html", jpeg: "jpg", yml: "yaml" }[extension] ?? extension;
}

function findName(file: ReleaseFile, names: Names): ReleaseFile | undefined {
  const own = nameOf(file);
  if (own === "") return undefined;
  const within = own.length < 4 ? 0 : Math.max(1, Math.floor(own.length / 5));
  for (let steps = 0; steps <= within; steps++) {
    const found: ReleaseFile[] = [];
    for (let length = own.length - steps; length <= own.length + steps; length++)
      for (const one of names.get(`${extensionOf(file)} ${length}`) ?? [])
        if (distance(own, one.name) === steps) found.push(one.file);
    if (found.length > 0) return nearest(file, found);
  }
  return undefined;
}

// Of several, the one whose address has most folders in common; none where two are equally near.
function nearest(file: ReleaseFile, found: readonly ReleaseFile[]): ReleaseFile | undefined {
  const own = new Set(file.address.split("/"));
  const ranked = found
    .map((one) => ({ one, shared: one.address.split("/").filter((name) => own.has(name)).length }))
    .sort((a, b) => b.shared - a.shared);
  return ranked.length > 1 && ranked[0]!.shared === ranked[1]!.shared ? undefined : ranked[0]?.one;
}

function groupBy<Item, Key>(items: readonly Item[], keyOf: (item: Item) => Key): Map<Key, Item[]> {
  const groups = new Map<Key, Item[]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group === undefined) groups.set(key, [item]);
    else group.push(item);
  }
  return groups;
}
