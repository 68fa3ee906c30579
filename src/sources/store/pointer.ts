import { createHash } from "node:crypto";
import * as z from "zod";
import { type ObjectStore, StoreError, type WrittenBody } from "./object-store.js";

/** The key of the one object that says which release is present. */
export const POINTER = "present.json";
/** It holds a line for each release; a longer one is not read, in bytes. */
const POINTER_BYTES = 8 * 1024 * 1024;
/** The longest seal that is read, in bytes. */
const SEAL_BYTES = 1024 * 1024 * 1024;

const HEX = /^[\da-f]{64}$/;

const release = z.object({
  number: z.int().min(1),
  /** SHA-256 of its seal, in hexadecimal: the seal's own name. */
  seal: z.string().regex(HEX),
  published: z.iso.datetime(),
  /** When it was made present last. */
  present: z.iso.datetime(),
  files: z.int().min(0),
  bytes: z.int().min(0),
});

const pointer = z.object({
  store: z.literal(1),
  /** One more with each change. */
  revision: z.int().min(1),
  /** Who changed it: a word that nobody else has. */
  writer: z.string(),
  /** The highest number that was given to a release. */
  last: z.int().min(0),
  present: z.int().min(1).optional(),
  /** What will be present in a moment: servers answer for its fingerprinted files already. */
  next: z.int().min(1).optional(),
  releases: z.array(release),
});

/** A release as the pointer tells of it. */
export type StoredRelease = z.infer<typeof release>;

/** What a release store says of its releases: one object, written whole. */
export type Pointer = z.infer<typeof pointer>;

/** A store in which nothing was published. */
export const NO_RELEASES: Pointer = { store: 1, revision: 1, writer: "", last: 0, releases: [] };

/** Reads which releases there are; undefined where nothing was published. Rejects with a StoreError. */
export async function readPointer(store: ObjectStore, deadlineMs: number): Promise<Pointer | undefined> {
  const bytes = await store.read(POINTER, { atMost: POINTER_BYTES, deadlineMs });
  return bytes === undefined ? undefined : parsePointer(bytes, `${store.name}: ${POINTER}`);
}

/** Parses a pointer. Throws a StoreError if it is malformed. */
export function parsePointer(bytes: Uint8Array, shown: string): Pointer {
  let value: unknown;
  try {
    value = JSON.parse(Buffer.from(bytes).toString("utf8"));
  } catch {
    throw new StoreError(`${shown} is not JSON; it was changed by something else.`);
  }
  const read = pointer.safeParse(value);
  if (!read.success) {
    const [issue] = read.error.issues;
    const where = issue!.path.length === 0 ? "" : ` at ${issue!.path.join(".")}`;
    throw new StoreError(`${shown} does not tell of releases${where}; it was changed by something else.`);
  }
  const { present, next, releases } = read.data;
  const known = new Set(releases.map(({ number }) => number));
  for (const number of [present, next])
    if (number !== undefined && !known.has(number))
      throw new StoreError(`${shown} names the release ${number}, which it does not have.`);
  return read.data;
}

export async function writePointer(store: ObjectStore, next: Pointer): Promise<void> {
  await store.write(POINTER, toBody(Buffer.from(`${JSON.stringify(next, undefined, 1)}\n`)));
}

/** The key of a seal. */
export const sealKey = (seal: string): string => `releases/${seal}.jsonl`;

/** The key of a file, by the SHA-256 of its bytes in hexadecimal. */
export const fileKey = (hex: string): string => `files/${hex.slice(0, 2)}/${hex}`;

/** The text of a release's seal, which was compared with its digest. Rejects with a StoreError. */
export async function readSeal(store: ObjectStore, seal: string, deadlineMs: number): Promise<string> {
  const bytes = await store.read(sealKey(seal), { atMost: SEAL_BYTES, deadlineMs });
  if (bytes === undefined) throw new StoreError(`${store.name}: ${sealKey(seal)} is missing.`);
  if (sha256(bytes) !== seal)
    throw new StoreError(`${store.name}: ${sealKey(seal)} has other bytes than its name says.`);
  return Buffer.from(bytes).toString("utf8");
}

export const sha256 = (bytes: Uint8Array): string => createHash("sha256").update(bytes).digest("hex");

/** Bytes in memory, as they are written. */
export function toBody(bytes: Uint8Array): WrittenBody {
  return {
    sizeBytes: bytes.length,
    digest: sha256(bytes),
    async *open() {
      yield bytes;
    },
  };
}

/** A digest in base64url as one in hexadecimal. */
export const toHex = (base64url: string): string => Buffer.from(base64url, "base64url").toString("hex");

/** A release as people call it. */
export const nameRelease = (store: ObjectStore, number: number): string =>
  `release ${number} of ${store.name}`;
