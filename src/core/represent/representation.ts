import type { EntityTag } from "../fields/entity-tag.js";
import { fieldValue } from "../request/request.js";
import { openCandidate, type ResolutionContext } from "../resolve/candidate.js";
import type { FileProfile } from "../rules/rules.js";
import type { OpenedFile } from "../source.js";
import { CODING_ENDINGS, type Coding, type Compressor, rankCodings } from "./coding.js";
import { decideTagBase } from "./profile.js";

/** A file in one coding: what is sent besides its bytes. Name and value of the field lines stand by turns. */
export interface Representation {
  readonly tag: EntityTag;
  readonly lastModifiedSeconds: number;
  readonly sizeBytes: number;
  readonly contentType: string;
  /** Field lines of the full answer. */
  readonly fields: readonly string[];
  /** Those of them that say nothing of the length: what a partial answer keeps. */
  readonly restFields: readonly string[];
  /** Field lines of a 304, which RFC 9110 §15.4.5 wants from a 200 to the same request. */
  readonly notModifiedFields: readonly string[];
}

/** The representation that was negotiated, and where its bytes are. The file, where there is one, is open. */
export interface Selected {
  readonly representation: Representation;
  readonly content: { kind: "file"; file: OpenedFile } | { kind: "bytes"; bytes: Uint8Array };
  /** The coding; undefined for the bytes as they are. */
  readonly coding: Coding | undefined;
}

/** What was worked out of a profile by coding, for as long as the profile lives. */
const known = new WeakMap<FileProfile, Map<string, Representation>>();

/**
 * Chooses the coding that a file is sent in (RFC 9110 §12.5.3): one that is prebuilt beside it, one that is made on the fly,
 * or none. Takes over the file: what is not sent is closed.
 */
export function selectRepresentation(
  context: ResolutionContext,
  profile: FileProfile,
  path: string,
  file: OpenedFile,
  compressor: Compressor | undefined,
): Selected | Promise<Selected> {
  if (profile.codings.length === 0) return selectPlain(profile, file);
  const ranked = rankCodings(fieldValue(context.request.headers, "accept-encoding"), profile.codings);
  return ranked.length === 0
    ? selectPlain(profile, file)
    : selectCoded(context, profile, path, file, compressor, ranked);
}

async function selectCoded(
  context: ResolutionContext,
  profile: FileProfile,
  path: string,
  file: OpenedFile,
  compressor: Compressor | undefined,
  ranked: readonly Coding[],
): Promise<Selected> {
  const { request, rules } = context;
  // RFC 9111 §5.2.1.6: who asks for no transformation gets the bytes that lie there.
  const makes =
    profile.compresses && !/\bno-transform\b/i.test(fieldValue(request.headers, "cache-control") ?? "");
  for (const coding of ranked) {
    if (rules.codings.prebuilt.includes(coding)) {
      const prebuilt = await openPrebuilt(context, path, file, coding);
      if (prebuilt !== undefined) {
        file.close();
        const tagBase = await decideTagBase(prebuilt, rules).catch((error: unknown) => {
          prebuilt.close();
          throw error;
        });
        const representation = represent(profile, coding, tagBase, prebuilt.metadata.sizeBytes);
        return { representation, content: { kind: "file", file: prebuilt }, coding };
      }
    }
    if (makes && compressor !== undefined) {
      const bytes = await compressor.compress(file.metadata, coding, () => readWhole(file));
      if (bytes !== undefined) {
        file.close();
        const representation = represent(
          profile,
          coding,
          `${profile.tagBase}-${compressor.version}`,
          bytes.length,
        );
        return { representation, content: { kind: "bytes", bytes }, coding };
      }
    }
  }
  return selectPlain(profile, file);
}

/** The representation of the bytes as they are. */
export function selectPlain(profile: FileProfile, file: OpenedFile): Selected {
  const representation = represent(profile, undefined, profile.tagBase, file.metadata.sizeBytes);
  return { representation, content: { kind: "file", file }, coding: undefined };
}

/** A prebuilt file that is older than its original by more than this is out of date, in nanoseconds: an archive's clock is coarse. */
const STALE_NS = 2_000_000_000n;

async function openPrebuilt(
  context: ResolutionContext,
  path: string,
  original: OpenedFile,
  coding: Coding,
): Promise<OpenedFile | undefined> {
  const candidate = await openCandidate(context, path + CODING_ENDINGS[coding], "prebuilt coding");
  if (candidate.kind !== "file") return undefined;
  if (candidate.file.metadata.modifiedNs + STALE_NS >= original.metadata.modifiedNs) return candidate.file;
  candidate.file.close();
  return undefined;
}

async function readWhole(file: OpenedFile): Promise<Uint8Array> {
  const bytes = await file.read(0, file.metadata.sizeBytes);
  if (bytes.length !== file.metadata.sizeBytes) throw new Error("The file became shorter while it was read.");
  return bytes;
}

function represent(
  profile: FileProfile,
  coding: Coding | undefined,
  tagBase: string,
  sizeBytes: number,
): Representation {
  // RFC 9110 §8.8.3.3: each coding has a tag of its own.
  const opaque = coding === undefined ? `"${tagBase}"` : `"${tagBase}-${coding}"`;
  let byTag = known.get(profile);
  const before = byTag?.get(opaque);
  if (before !== undefined) return before;

  const validators = ["ETag", opaque, "Last-Modified", profile.lastModified];
  const restFields = [
    ...(coding === undefined ? [] : ["Content-Encoding", coding]),
    ...profile.cachingFields,
    ...validators,
    "Accept-Ranges",
    "bytes",
    ...profile.otherFields,
  ];
  const representation: Representation = {
    tag: { weak: false, opaque },
    lastModifiedSeconds: profile.lastModifiedSeconds,
    sizeBytes,
    contentType: profile.contentType,
    fields: ["Content-Type", profile.contentType, "Content-Length", String(sizeBytes), ...restFields],
    restFields,
    notModifiedFields: [...profile.cachingFields, ...validators, ...profile.varyFields],
  };
  if (byTag === undefined) {
    byTag = new Map();
    known.set(profile, byTag);
  }
  byTag.set(opaque, representation);
  return representation;
}
