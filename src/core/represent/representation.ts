import { parseCacheControl } from "../fields/cache-control.js";
import { Fields } from "../fields/fields.js";
import { fieldValue, type SiteRequest } from "../request/request.js";
import type { OpenFiles } from "../resolve/open-files.js";
import { CODING_ENDINGS, type Coding } from "../rules/codings.js";
import type { FileMetadata, OpenedFile } from "../source.js";
import { type Compressor, rankCodings } from "./coding.js";
import type { Described, FileProfile, KnownFiles, Representation } from "./known-files.js";
import { decideTag } from "./tag.js";

/** The representation that was negotiated, where its bytes are, and why this one. The file, where there is one, is open. */
export interface Selected {
  readonly representation: Representation;
  readonly content: { kind: "file"; file: OpenedFile } | { kind: "bytes"; bytes: Uint8Array };
  /** The coding; undefined for the bytes as they are. */
  readonly coding: Coding | undefined;
  readonly because: string;
}

/** What representations are made with: the request, its open files, what is known about files, a compressor where there is one. */
export interface Negotiation {
  readonly request: SiteRequest;
  readonly files: OpenFiles;
  readonly known: KnownFiles;
  readonly compressor: Compressor | undefined;
  readonly nowSeconds: number;
}

/**
 * Chooses the coding that a file is sent in (RFC 9110 §12.5.3): one that is prebuilt beside it, one that is made on the fly,
 * or none.
 */
export function selectRepresentation(
  negotiation: Negotiation,
  profile: FileProfile,
  described: Described,
): Selected | Promise<Selected> {
  const { file } = described;
  if (profile.codings.length === 0) return selectPlain(profile, file, profile.uncoded!);
  const accept = fieldValue(negotiation.request.headers, "accept-encoding");
  if (accept === undefined) return selectPlain(profile, file, "the request has no Accept-Encoding");
  const ranked = rankCodings(accept, profile.codings);
  return ranked.length === 0
    ? selectPlain(
        profile,
        file,
        `Accept-Encoding names none of those offered (${profile.codings.join(", ")})`,
      )
    : selectCoded(negotiation, profile, described, ranked);
}

async function selectCoded(
  negotiation: Negotiation,
  profile: FileProfile,
  described: Described,
  ranked: readonly Coding[],
): Promise<Selected> {
  const { rules, file } = described;
  const compressor =
    mayTransform(negotiation.request) && profile.compresses ? negotiation.compressor : undefined;
  for (const coding of ranked) {
    const selected =
      (rules.codings.prebuilt.includes(coding)
        ? await selectPrebuilt(negotiation, profile, described, coding)
        : undefined) ??
      (compressor?.codings.includes(coding)
        ? await selectMade(compressor, profile, described, coding)
        : undefined);
    if (selected !== undefined) return selected;
  }
  return selectPlain(profile, file, "none is prebuilt, and compressing saves nothing");
}

// RFC 9111 §5.2.1.6: who asks for no transformation gets the bytes that lie there.
export function mayTransform({ headers }: SiteRequest): boolean {
  const control = fieldValue(headers, "cache-control");
  return control === undefined || !parseCacheControl(control).directives.has("no-transform");
}

/** A prebuilt file that is older than its original by more than this is out of date, in nanoseconds: an archive's clock is coarse. */
export const STALE_NS = 2_000_000_000n;

function isStale(coded: FileMetadata, original: FileMetadata): boolean {
  return original.digest === undefined && coded.modifiedNs + STALE_NS < original.modifiedNs;
}

async function selectPrebuilt(
  { files, known, nowSeconds }: Negotiation,
  profile: FileProfile,
  { address, path, file: original, rules }: Described,
  coding: Coding,
): Promise<Selected | undefined> {
  const candidate = await files.open(path + CODING_ENDINGS[coding], "prebuilt coding");
  if (candidate.kind !== "file") return undefined;
  const { file } = candidate;
  if (isStale(file.metadata, original.metadata)) return undefined;
  const { base } = await decideTag(
    known,
    { address: address + CODING_ENDINGS[coding], file, rules },
    nowSeconds,
  );
  const representation = represent(profile, coding, base, file.metadata.sizeBytes);
  const because = "Accept-Encoding prefers it, and it is prebuilt";
  return { representation, content: { kind: "file", file }, coding, because };
}

async function selectMade(
  compressor: Compressor,
  profile: FileProfile,
  { address, file }: Described,
  coding: Coding,
): Promise<Selected | undefined> {
  const key = { address, version: profile.codingVersion };
  const bytes = await compressor.compress(key, coding, () => readWhole(file));
  if (bytes === undefined) return undefined;
  const tagBase = `${profile.tag.base}-${compressor.version}`;
  const representation = represent(profile, coding, tagBase, bytes.length);
  const because = "Accept-Encoding prefers it, and it is made on the fly";
  return { representation, content: { kind: "bytes", bytes }, coding, because };
}

function selectPlain(profile: FileProfile, file: OpenedFile, because: string): Selected {
  const representation = represent(profile, undefined, profile.tag.base, file.metadata.sizeBytes);
  return { representation, content: { kind: "file", file }, coding: undefined, because };
}

async function readWhole(file: OpenedFile): Promise<Uint8Array> {
  const bytes = await file.read(0, file.metadata.sizeBytes);
  if (bytes.length !== file.metadata.sizeBytes) throw new Error("The file became shorter while it was read.");
  return bytes;
}

function linkTo({ preloads }: FileProfile): Fields {
  return preloads.length === 0
    ? Fields.NONE
    : Fields.of(["Link", preloads.join(", "), "preloads: what the page's own head needs at once"]);
}

// One is kept for each coding; another tag, of a prebuilt file that changed, takes its place.
function represent(
  profile: FileProfile,
  coding: Coding | undefined,
  tagBase: string,
  sizeBytes: number,
): Representation {
  const before = profile.representations.get(coding ?? "");
  if (before?.tagBase === tagBase && before.sizeBytes === sizeBytes) return before;
  const made = makeRepresentation(profile, coding, tagBase, sizeBytes);
  profile.representations.set(coding ?? "", made);
  return made;
}

function makeRepresentation(
  profile: FileProfile,
  coding: Coding | undefined,
  tagBase: string,
  sizeBytes: number,
): Representation {
  // RFC 9110 §8.8.3.3: each coding has its own tag.
  const base = tagBase + profile.tagSuffix;
  const opaque = coding === undefined ? `"${base}"` : `"${base}-${coding}"`;
  const {
    ofContent,
    caching,
    vary,
    ownFields,
    disposition,
    contentLocation,
    contentType,
    lastModifiedSeconds,
  } = profile;
  const entityTag = Fields.of(["ETag", opaque, profile.tag.because, profile.tag.rule]);
  const encoding =
    coding === undefined
      ? Fields.NONE
      : Fields.of(["Content-Encoding", coding, "the coding that Accept-Encoding prefers"]);
  const restFields = encoding
    .concat(ofContent)
    .concat(caching)
    .concat(entityTag)
    .concat(profile.lastModified)
    .concat(contentLocation)
    .append("Accept-Ranges", "bytes", "clients can ask for ranges")
    .concat(ownFields)
    .concat(disposition)
    .concat(linkTo(profile))
    .concat(vary);
  const size = coding === undefined ? "the size of the file" : "the size of the file in its coding";
  return {
    tagBase,
    tag: { weak: false, opaque },
    lastModifiedSeconds,
    sizeBytes,
    contentType,
    type: profile.type,
    fields: profile.type.append("Content-Length", String(sizeBytes), size).concat(restFields),
    restFields,
    // RFC 9110 §15.4.5: no date beside the tag. A cache would take over that of another replica, and answer in full from then on.
    early: profile.early,
    notModifiedFields: caching.concat(entityTag, contentLocation, vary),
  };
}
