import { crossOriginFields } from "../answer/cross-origin.js";
import { formatAttachment } from "../fields/disposition.js";
import { formatMetadataTag } from "../fields/entity-tag.js";
import { formatHttpDate } from "../fields/http-date.js";
import { decideTypeByContent, HEADER_BYTES } from "../media-types/content.js";
import { decideMediaType, formatContentType, isCompressible } from "../media-types/media-type.js";
import type { SiteRequest } from "../request/request.js";
import type { FileProfile, Rules } from "../rules/rules.js";
import type { OpenedFile } from "../source.js";

/** Compressing less is not worth a coding; more would hold up its first reader. In bytes. */
export const COMPRESS_FROM = 1024;
export const COMPRESS_UP_TO = 8 * 1024 * 1024;

const REVALIDATE = ["Cache-Control", "no-cache"];
const NO_REQUEST: SiteRequest = { method: "GET", target: "/", headers: {} };

/** Describes a file under its rules. Reads of it only what a name without meaning or a digest needs. */
export function describeFile(
  path: string,
  file: OpenedFile,
  rules: Rules,
  nowSeconds: number,
): FileProfile | Promise<FileProfile> {
  return rules.profiles.get(file.metadata) ?? makeProfile(path, file, rules, nowSeconds);
}

async function makeProfile(
  path: string,
  file: OpenedFile,
  rules: Rules,
  nowSeconds: number,
): Promise<FileProfile> {
  const { metadata } = file;
  const mediaType = decideMediaType(path, rules.mediaTypes) ?? decideTypeByContent(await readHeader(file));
  const modifiedSeconds = Number(metadata.modifiedNs / 1_000_000_000n);
  // RFC 9110 §8.8.2.1: a date in the future is replaced by the time of the message.
  const lastModifiedSeconds = Math.min(modifiedSeconds, nowSeconds);
  const folded = rules.fold(path);
  const cachingRule = rules.caching.find((rule) => rule.matches(folded, path));
  const compresses =
    rules.codings.compress &&
    !cachingRule?.noTransform &&
    metadata.sizeBytes >= COMPRESS_FROM &&
    metadata.sizeBytes <= COMPRESS_UP_TO;
  const codings = !isCompressible(mediaType)
    ? []
    : compresses
      ? [...new Set([...rules.codings.prebuilt, "br" as const, "gzip" as const])]
      : rules.codings.prebuilt;

  const vary = [
    ...(codings.length > 0 ? ["Accept-Encoding"] : []),
    ...(Array.isArray(rules.crossOrigin) ? ["Origin"] : []),
  ];
  const varyFields = vary.length === 0 ? [] : ["Vary", vary.join(", ")];
  const anyOrigin = rules.crossOrigin === "*" ? crossOriginFields("*", NO_REQUEST) : [];
  const safetyFields = ["X-Content-Type-Options", "nosniff", ...collectHeaders(folded, path, rules)];
  const profile: FileProfile = {
    tagBase: await decideTagBase(file, rules),
    lastModifiedSeconds,
    lastModified: formatHttpDate(lastModifiedSeconds),
    contentType: formatContentType(mediaType, rules.charset),
    codings,
    compresses,
    cachingFields: cachingRule?.fields ?? REVALIDATE,
    safetyFields,
    otherFields: [...safetyFields, ...collectDownload(folded, path, rules), ...anyOrigin, ...varyFields],
    varyFields: [...anyOrigin, ...varyFields],
  };
  if (modifiedSeconds <= nowSeconds) rules.profiles.set(metadata, profile);
  return profile;
}

/** The opaque part of a file's tag: its size and times, or the digest of its bytes. */
export async function decideTagBase(file: OpenedFile, rules: Rules): Promise<string> {
  return rules.validators === "content" ? file.digest() : formatMetadataTag(file.metadata);
}

async function readHeader(file: OpenedFile): Promise<Uint8Array> {
  return file.read(0, Math.min(HEADER_BYTES, file.metadata.sizeBytes));
}

// Every rule that matches has its say; a later one replaces what an earlier one said of the same field.
function collectHeaders(folded: string, path: string, rules: Rules): string[] {
  const fields = new Map<string, readonly [string, string]>();
  for (const rule of rules.headers) {
    if (!rule.matches(folded, path)) continue;
    for (const [name, value] of rule.fields) fields.set(name.toLowerCase(), [name, value]);
  }
  return [...fields.values()].flat();
}

function collectDownload(folded: string, path: string, rules: Rules): string[] {
  const rule = rules.downloads.find((one) => one.matches(folded, path));
  return rule === undefined ? [] : ["Content-Disposition", formatAttachment(rule.name ?? path)];
}
