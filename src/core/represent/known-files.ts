import type { EntityTag } from "../fields/entity-tag.js";
import type { Fields } from "../fields/fields.js";
import type { Store } from "../memory/store.js";
import type { Coding } from "../rules/codings.js";
import type { Mount } from "../rules/mount.js";
import type { JudgedName } from "../rules/names.js";
import type { Rules } from "../rules/rules.js";
import type { Variant } from "../rules/variants.js";
import type { FileMetadata, OpenedFile } from "../source.js";

/** The opaque part of a file's entity tag, without quotes. */
export interface Tag {
  readonly base: string;
  /** It stands while the file's metadata do; otherwise it is made again for the next request. */
  readonly lasts: boolean;
  /** What it was made from, in words. */
  readonly because: string;
  /** The key of the configuration that had a say in it. */
  readonly rule?: string | undefined;
}

/** What the rules make of a file, whatever coding it is sent in: worked out once while both stand. */
export interface FileProfile {
  /** The opaque part of its entity tag, without quotes. */
  readonly tag: Tag;
  /** Undefined where no date is told, because it would say nothing. */
  readonly lastModifiedSeconds: number | undefined;
  /** Content-Type alone. */
  readonly type: Fields;
  readonly contentType: string;
  /** Codings that may be offered for it, the most wanted first; empty when it is always sent as it is. */
  readonly codings: readonly Coding[];
  /** Codings may be made on the fly, and not only found prebuilt. */
  readonly compresses: boolean;
  /** Why no coding is offered, in words; undefined where some are. */
  readonly uncoded: string | undefined;
  readonly caching: Fields;
  /** What is known of the file's name; undefined where no rule asks. */
  readonly name: JudgedName | undefined;
  readonly lastModified: Fields;
  /** The header rules' fields: those of any answer with it, an error among them. */
  readonly ownFields: Fields;
  /** What its protective fields do not cover, each a sentence without a full stop. */
  readonly unprotected: readonly string[];
  /** Makes it a download, where a rule says so. */
  readonly disposition: Fields;
  /** Names the file, where the address is a shorter one. */
  readonly contentLocation: Fields;
  /** Its language, where that is known, and the coding of what is compressed by itself. */
  readonly ofContent: Fields;
  /** What the document needs at once, as values of Link. */
  readonly preloads: readonly string[];
  /** Those of them that are fresh for a time, so that a browser that fetches them early need not ask again. */
  readonly early: readonly string[];
  readonly vary: Fields;
  /** What tells its tags from those of its variants, with a hyphen before it; `""` for an original. */
  readonly tagSuffix: string;
  /** Codings that were made are kept for it: another object when the bytes are others. */
  readonly codingVersion: object;
  /** What was made from it by coding; `""` is the bytes as they are. One a coding. */
  readonly representations: Map<Coding | "", Representation>;
}

/** The addresses that a file answers: its own, one without its extension, or many of an application, so that no copy may live long. */
export type Answers = "own address" | "shorter address" | "deep links";

/** A file to be described: its address in the site, where it is in the mount, and what it is sent for. */
export interface Described {
  readonly address: string;
  readonly path: string;
  readonly file: OpenedFile;
  /** With the source that the file was found in. */
  readonly mount: Mount;
  readonly rules: Rules;
  readonly answers: Answers;
  /** What it is beside its variants; undefined where it has none. */
  readonly variant?: Variant | undefined;
}

/** What is known about the file at an address, while its metadata object is the same. */
export interface KnownFile {
  readonly metadata: FileMetadata;
  readonly profiles: (Pick<Described, "rules" | "answers" | "variant"> & { readonly profile: FileProfile })[];
  /** The digest of its bytes, in base64url. */
  digest: { readonly sha256: string; readonly lasts: boolean } | undefined;
  digesting: Promise<string> | undefined;
  /** See `FileProfile`. */
  codingVersion: object;
}

export type KnownFiles = Store<string, KnownFile>;

/** A file in one coding: what is sent besides its bytes. */
export interface Representation {
  /** The SHA-256 of the bytes of a coding that was made, in base64url, once it was asked for. */
  digest?: string;
  /** What its tag was made from. */
  readonly tagBase: string;
  readonly tag: EntityTag;
  readonly lastModifiedSeconds: number | undefined;
  readonly sizeBytes: number;
  readonly contentType: string;
  /** Content-Type alone. */
  readonly type: Fields;
  /** Fields of the full answer. */
  readonly fields: Fields;
  /** Those of them that say nothing of type and length: what a partial answer keeps. */
  readonly restFields: Fields;
  /** Values of Link that may be told before the answer (RFC 8297). */
  readonly early: readonly string[];
  /** Fields of a 304, which RFC 9110 §15.4.5 wants from a 200 to the same request. */
  readonly notModifiedFields: Fields;
}

export function newEntry(metadata: FileMetadata): KnownFile {
  return { metadata, profiles: [], digest: undefined, digesting: undefined, codingVersion: metadata };
}

/** What is known about a file; undefined when nothing is, or it changed. */
export function recallFile(
  known: KnownFiles,
  { address, file: { metadata } }: Pick<Described, "address" | "file">,
): KnownFile | undefined {
  const entry = known.get(address);
  return entry?.metadata === metadata ? entry : undefined;
}

/** What was made from a file under these rules; undefined when nothing was, or the file changed. */
export function recallProfile(known: KnownFiles, described: Described): FileProfile | undefined {
  return recallFile(known, described)?.profiles.find((one) => isSameUse(one, described))?.profile;
}

type Use = Pick<Described, "rules" | "answers" | "variant">;

function isSameUse(a: Use, b: Use): boolean {
  return (
    a.rules === b.rules &&
    a.answers === b.answers &&
    a.variant?.of === b.variant?.of &&
    a.variant?.isOther === b.variant?.isOther
  );
}

export function keepProfile(known: KnownFiles, described: Described, profile: FileProfile): void {
  const { address, file, rules, answers, variant } = described;
  const entry = recallFile(known, described) ?? newEntry(file.metadata);
  const before = entry.profiles.findIndex((one) => isSameUse(one, described));
  if (before >= 0) entry.profiles.splice(before, 1);
  entry.profiles.push({ rules, answers, variant, profile });
  known.set(address, entry);
}
