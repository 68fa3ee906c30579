import type { Rules } from "../rules/rules.js";
import type { FileMetadata, OpenedFile } from "../source.js";
import {
  type Described,
  type KnownFile,
  type KnownFiles,
  newEntry,
  recallFile,
  type Tag,
} from "./known-files.js";

/** Up to this size a tag is made from the bytes, in bytes: the first answer takes some 7 ms longer then, and none after it. */
const DIGEST_UP_TO = 1024 * 1024;
/** Where the time says nothing, more is read for it: up to this size, in bytes. */
const DIGEST_FIXED_UP_TO = 64 * 1024 * 1024;

/** A file that changed less than this ago, in seconds, may change again and leave its times as they are: clocks of file systems tick. */
const SETTLED_SECONDS = 2;

/** Letters of a digest that a tag has: 132 bits of it. */
const TAG_LENGTH = 22;

const SEALED = "the digest of the file's bytes when it was sealed";

type Tagged = Pick<Described, "address" | "file" | "rules">;

/** Makes a file's tag: of its bytes, which are read once while the file is unchanged, or of its size and times. */
export function decideTag(known: KnownFiles, tagged: Tagged, nowSeconds: number): Promise<Tag> | Tag {
  const { file, rules } = tagged;
  const { metadata } = file;
  if (metadata.digest !== undefined)
    return { base: metadata.digest.slice(0, TAG_LENGTH), lasts: true, because: SEALED };
  const { validators } = rules.origins;
  const rule = validators.place;
  const said = `validators: ${validators.words}`;
  if (readsBytes(metadata, rules)) return tagOfBytes(known, tagged, nowSeconds, { said, rule });
  const { modifiedNs, sizeBytes, changedNs = 0n } = metadata;
  if (hasMeaning(metadata, rules)) {
    const base = `${mix(modifiedNs)}${mix(BigInt(sizeBytes) ^ modifiedNs)}`;
    return { base, lasts: true, because: `the file's size and time; ${said}`, rule };
  }
  const base = `${mix(modifiedNs)}${mix(BigInt(sizeBytes) ^ modifiedNs)}${mix(changedNs)}`;
  const because = `the file's size and when it was put there, as many files have the same time; ${said}`;
  return { base, lasts: true, because, rule };
}

/** True where a file's time tells one version from another. Those who ask for metadata have decided that it does. */
export function hasMeaning({ fixedTime = false, digest }: FileMetadata, { validators }: Rules): boolean {
  return digest === undefined && (!fixedTime || validators === "metadata");
}

function readsBytes(metadata: FileMetadata, rules: Rules): boolean {
  if (rules.validators !== "automatic") return rules.validators === "content";
  return metadata.sizeBytes <= (hasMeaning(metadata, rules) ? DIGEST_UP_TO : DIGEST_FIXED_UP_TO);
}

async function tagOfBytes(
  known: KnownFiles,
  tagged: Tagged,
  nowSeconds: number,
  { said, rule }: { readonly said: string; readonly rule: string | undefined },
): Promise<Tag> {
  const { metadata } = tagged.file;
  const because = `the digest of the file's bytes; ${said}`;
  const lasts = isSettled(metadata, nowSeconds);
  const base = (await wholeDigest(known, tagged, nowSeconds)).slice(0, TAG_LENGTH);
  return { base, lasts, because, rule };
}

/** The SHA-256 of a file's bytes, in base64url, where it is known without reading them. */
export function knownDigest(known: KnownFiles, tagged: Tagged): string | undefined {
  const { digest } = tagged.file.metadata;
  if (digest !== undefined) return digest;
  const entry = recallFile(known, tagged);
  return entry?.digest?.lasts ? entry.digest.sha256 : undefined;
}

/** The same; the bytes are read where it is not known: once while the file is unchanged, however many ask. */
export async function wholeDigest(known: KnownFiles, tagged: Tagged, nowSeconds: number): Promise<string> {
  const found = knownDigest(known, tagged);
  if (found !== undefined) return found;
  const { address, file } = tagged;
  const { metadata } = file;
  const lasts = isSettled(metadata, nowSeconds);
  const entry = recallFile(known, tagged) ?? newEntry(metadata);
  known.set(address, entry);
  const sha256 = await (lasts ? digestOnce(entry, file) : file.digest());
  if (entry.digest !== undefined && entry.digest.sha256 !== sha256) forgetContent(entry);
  entry.digest = { sha256, lasts };
  return sha256;
}

function isSettled({ changedNs }: FileMetadata, nowSeconds: number): boolean {
  return changedNs === undefined || nowSeconds - Number(changedNs / 1_000_000_000n) > SETTLED_SECONDS;
}

// However many ask for a large file at a time, it is read once.
function digestOnce(entry: KnownFile, file: OpenedFile): Promise<string> {
  entry.digesting ??= file.digest().finally(() => {
    entry.digesting = undefined;
  });
  return entry.digesting;
}

// The bytes changed without a sign: what was made from them is another's.
function forgetContent(entry: KnownFile): void {
  entry.profiles.length = 0;
  entry.codingVersion = {};
}

const MASK = (1n << 64n) - 1n;

// Nothing can be read off a tag, and two values never share one: each step has an inverse (the finaliser of SplitMix64).
function mix(value: bigint): string {
  let z = (value + 0x9e3779b97f4a7c15n) & MASK;
  z = ((z ^ (z >> 30n)) * 0xbf58476d1ce4e5b9n) & MASK;
  z = ((z ^ (z >> 27n)) * 0x94d049bb133111ebn) & MASK;
  return (z ^ (z >> 31n)).toString(36).padStart(13, "0");
}
