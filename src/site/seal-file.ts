import { readFile } from "node:fs/promises";
import { SiteError } from "../config/site-error.js";
import type { Pause } from "../core/listing/order.js";
import { isAddressable } from "../core/request/target.js";
import { FINGERPRINTED } from "../core/rules/names.js";
import type { NameCode } from "../core/source.js";
import { makeRests } from "../reading/slices.js";
import { hasPieces, PIECE_BYTES, piecesLength } from "../sources/sealed/pieces.js";
import { SealedEntry } from "../sources/sealed/sealed-entry.js";
import type { SealedFolder } from "../sources/sealed/sealed-folder.js";
import { makePause } from "./pause.js";
import { writeWhole } from "./write-whole.js";

/**
 * A seal file is JSON, an object a line (docs/sealing.md, dist/schema/seal.json). The first says what it is of; each other is a
 * file: the number of its mount, its path in it, its size in bytes, the SHA-256 of its bytes, its time and its media type, the
 * digests of the codings that lie beside it, and those of its pieces.
 */
interface SealHead {
  readonly seal: 1;
  readonly mounts: readonly { readonly at: string; readonly files: number }[];
}

interface SealLine {
  readonly mount: number;
  readonly path: string;
  readonly size: number;
  readonly digest: string;
  readonly modified: string;
  readonly type: string;
  /** How it was known that the name is fingerprinted; false for one that is not. */
  readonly fingerprinted?: NameCode | false;
  readonly codings?: Readonly<Record<string, string>>;
  /** Of a file above 1 MiB: the SHA-256 of each piece of `size` bytes, one after another, in base64. */
  readonly pieces?: { readonly size: number; readonly digests: string };
}

/** A mount's sealed folder, and what is said about its files besides. */
export interface SealedMount {
  /** The mount's prefix, such as "/archive". */
  readonly at: string;
  readonly folder: SealedFolder;
  /** The media type of a file, for readers of the seal. */
  readonly typeOf: (path: string) => string;
  /** The endings of the codings that may lie beside a file, such as [["br", ".br"]]. */
  readonly codings: readonly (readonly [coding: string, ending: string])[];
}

/** Writes what was sealed to a file, which takes the place of one that was there in one step. */
export async function writeSealFile(path: string, mounts: readonly SealedMount[]): Promise<void> {
  try {
    await writeWhole(path, formatSeal(mounts));
  } catch (error) {
    throw new SiteError([
      `The seal file ${path} cannot be written (${(error as NodeJS.ErrnoException).code}); name a file in a folder that you can write to.`,
    ]);
  }
}

/** The text of a seal file: the same for the same files. */
export function formatSeal(mounts: readonly SealedMount[]): string {
  const head: SealHead = {
    seal: 1,
    mounts: mounts.map(({ at, folder: { files } }) => ({ at, files: files.size })),
  };
  const lines: object[] = [head];
  for (const [index, mount] of mounts.entries()) {
    for (const name of [...mount.folder.files.keys()].sort()) lines.push(toLine(index, mount, name));
  }
  return `${lines.map((line) => JSON.stringify(line)).join("\n")}\n`;
}

function toLine(mount: number, { folder: { files }, typeOf, codings }: SealedMount, path: string): SealLine {
  const { sizeBytes, digest, modifiedMs, name, pieces } = files.get(path)!;
  const coded = codings.flatMap(([coding, ending]) => {
    const beside = files.get(path + ending);
    return beside === undefined ? [] : [[coding, writeDigest(beside.digest)]];
  });
  return {
    mount,
    path,
    size: sizeBytes,
    digest: writeDigest(digest),
    modified: new Date(modifiedMs).toISOString(),
    type: typeOf(path),
    ...(name !== undefined && { fingerprinted: isFingerprintedCode(name) && name }),
    ...(pieces !== undefined && {
      pieces: { size: PIECE_BYTES, digests: Buffer.from(pieces).toString("base64") },
    }),
    ...(coded.length > 0 && { codings: Object.fromEntries(coded) }),
  };
}

/** What a seal file says of one mount. */
export interface SealedList {
  readonly at: string;
  readonly files: readonly Pick<
    SealLine,
    "path" | "size" | "digest" | "modified" | "fingerprinted" | "pieces"
  >[];
}

/** Reads a seal file. Rejects with a SiteError that names file and line. Digests are in base64url. */
export async function listSeal(
  path: string,
  shown = path,
  pause: Pause = makePause(),
): Promise<{ readonly mounts: readonly SealedList[] }> {
  return parseSeal(await readText(path, shown), shown, pause);
}

/** Reads the text of a seal file. Rejects with a SiteError that names file and line. Digests are in base64url. */
export async function parseSeal(
  text: string,
  shown: string,
  pause: Pause = makePause(),
): Promise<{ readonly mounts: readonly SealedList[] }> {
  const lines = text.split("\n");
  if (lines.at(-1) === "") lines.pop();
  const head = readJson(lines[0] ?? "", shown, 1) as Partial<SealHead> | null;
  if (typeof head !== "object" || head?.seal !== 1 || !Array.isArray(head.mounts))
    throw new SiteError([`${shown}: this is not a seal file; write one with epistyle seal --out ${shown}.`]);
  const odd = head.mounts.find((mount) => !isCounted(mount));
  if (odd !== undefined)
    throw new SiteError([
      `${shown}:1: found the mount ${show(odd)}; a mount has a prefix and a number of files: seal again.`,
    ]);
  const wanted = head.mounts.reduce((sum, { files }) => sum + files, 0);
  if (lines.length - 1 !== wanted)
    throw new SiteError([
      `${shown}: found ${lines.length - 1} files, but its first line says ${wanted}; it is incomplete or was changed: seal again.`,
    ]);
  const mounts = head.mounts.map(({ at }) => ({ at, files: [] as SealLine[] }));
  const seen = mounts.map(() => new Set<string>());
  const rest = makeRests(pause);
  for (let index = 1; index < lines.length; index++) {
    await rest();
    const line = readJson(lines[index]!, shown, index + 1);
    const problem = findProblem(line, seen);
    if (problem !== undefined) throw new SiteError([`${shown}:${index + 1}: ${problem}; seal again.`]);
    const { mount, digest, ...file } = line as SealLine;
    mounts[mount]!.files.push({ ...file, mount, digest: readDigest(digest) });
  }
  return { mounts };
}

/**
 * Adds what a seal file says to the folders of a site's mounts, in their order. Throws a SiteError that names file and line. Bytes
 * are not read: each file is compared with its digest when it is first asked for.
 */
export async function readSealFile(
  path: string,
  shown: string,
  mounts: readonly Pick<SealedMount, "at" | "folder">[],
  pause: Pause,
): Promise<void> {
  const { mounts: sealed } = await listSeal(path, shown, pause);
  const [own, said] = [mounts, sealed].map((all) => all.map(({ at }) => at).join(", "));
  if (own !== said)
    throw new SiteError([
      `${shown}: it was made for mounts at ${said}, but the configuration has mounts at ${own}; seal again.`,
    ]);
  const rest = makeRests(pause);
  for (const [index, { files }] of sealed.entries())
    for (const file of files) {
      await rest();
      mounts[index]!.folder.add(file.path, toEntry(file));
    }
}

/** A line of a seal as the file that it is of. */
export function toEntry({
  size,
  digest,
  modified,
  fingerprinted,
  pieces,
}: SealedList["files"][number]): SealedEntry {
  return new SealedEntry({
    sizeBytes: size,
    modifiedMs: Date.parse(modified),
    digest,
    name: toName(fingerprinted),
    pieces: pieces && Buffer.from(pieces.digests, "base64"),
  });
}

const SAYS_YES: ReadonlySet<NameCode> = new Set(FINGERPRINTED);

/** True for what says that a name is fingerprinted. */
export const isFingerprintedCode = (name: NameCode | undefined): boolean =>
  name !== undefined && SAYS_YES.has(name);

// Why it is not does not matter any more.
const toName = (written: NameCode | false | undefined): NameCode | undefined =>
  written === false ? "unlike-others" : written;

function isCounted(mount: unknown): boolean {
  if (typeof mount !== "object" || mount === null) return false;
  const { at, files } = mount as Partial<SealHead["mounts"][number]>;
  return typeof at === "string" && Number.isSafeInteger(files) && files! >= 0;
}

/** What was found, in a few characters: a file that was changed may hold anything, however deep. */
function show(value: unknown): string {
  const text = typeof value === "object" && value !== null ? "an object" : String(JSON.stringify(value));
  return text.length > 80 ? `${text.slice(0, 79)}…` : text;
}

function findProblem(line: unknown, seen: readonly Set<string>[]): string | undefined {
  if (typeof line !== "object" || line === null) return "found no object";
  const { mount, path, size, digest, modified, fingerprinted, pieces } = line as Partial<SealLine>;
  if (!Number.isInteger(mount) || mount! < 0 || mount! >= seen.length)
    return `found mount ${show(mount)}, which does not exist`;
  if (
    typeof path !== "string" ||
    path.split("/").some((name) => name === "" || name === "." || name === ".." || !isAddressable(name))
  )
    return `found the invalid path ${show(path)}`;
  if (!Number.isSafeInteger(size) || size! < 0)
    return `found the size ${show(size)}; it is a number of bytes`;
  if (typeof digest !== "string" || !DIGEST.test(digest))
    return `found the digest ${show(digest)}; it is written sha-256=:…:`;
  if (typeof modified !== "string" || Number.isNaN(Date.parse(modified)))
    return `found the invalid time ${show(modified)}`;
  if (fingerprinted && !SAYS_YES.has(fingerprinted))
    return `found fingerprinted ${show(fingerprinted)}; it is false or one of ${[...SAYS_YES].join(", ")}`;
  if (pieces !== undefined && !arePieces(pieces, size!))
    return `found pieces of ${show(path)} that do not fit its size`;
  if (seen[mount!]!.has(path)) return `found ${show(path)} a second time`;
  seen[mount!]!.add(path);
  return undefined;
}

function arePieces(pieces: unknown, sizeBytes: number): boolean {
  const { size, digests } = (pieces ?? {}) as Partial<NonNullable<SealLine["pieces"]>>;
  if (size !== PIECE_BYTES || !hasPieces(sizeBytes) || typeof digests !== "string") return false;
  return (
    /^[A-Za-z0-9+/]*={0,2}$/.test(digests) && Buffer.byteLength(digests, "base64") === piecesLength(sizeBytes)
  );
}

// RFC 9530 §2: a digest of 32 bytes as a byte sequence (RFC 8941 §3.3.5).
const DIGEST = /^sha-256=:[A-Za-z0-9+/]{43}=:$/;

function writeDigest(base64url: string): string {
  return `sha-256=:${base64url.replaceAll("-", "+").replaceAll("_", "/")}=:`;
}

function readDigest(written: string): string {
  return written.slice(9, 52).replaceAll("+", "-").replaceAll("/", "_");
}

function readJson(text: string, shown: string, line: number): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new SiteError([
      line === 1
        ? `${shown}: this is not a seal file; write one with epistyle seal --out ${shown}.`
        : `${shown}:${line}: this is not JSON; it is incomplete or was changed: seal again.`,
    ]);
  }
}

async function readText(path: string, shown: string): Promise<string> {
  try {
    return await readFile(path, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const what =
      code === "ENOENT"
        ? "there is no such seal file; write it with epistyle seal"
        : code === "EISDIR"
          ? "this is a folder; write the folder to serve before --seal"
          : `the seal file cannot be read (${code}); check its permissions`;
    throw new SiteError([`${shown}: ${what}.`]);
  }
}
