import { type EntityTag, formatMetadataTag } from "./entity-tag.js";
import { formatHttpDate } from "./http-date.js";
import { decideMediaType, formatContentType } from "./media-types/media-type.js";
import type { Rules } from "./rules.js";
import type { FileMetadata } from "./source.js";

/** What is sent for a file, besides its bytes: worked out once for as long as the file and its rules stand. */
export interface Representation {
  readonly tag: EntityTag;
  readonly lastModifiedSeconds: number;
  /** Field lines of the full answer, name and value by turns. */
  readonly fields: readonly string[];
  /** Field lines of a 304, which RFC 9110 §15.4.5 wants from a 200 to the same request. */
  readonly notModifiedFields: readonly string[];
  /** Field lines of the file as an error page: without validators, since it must be sent whole each time. */
  readonly errorFields: readonly string[];
}

/** Describes a file as it will be sent: media type, validators, caching. */
export function describeRepresentation(
  path: string,
  metadata: FileMetadata,
  rules: Rules,
  nowSeconds: number,
): Representation {
  const known = rules.representations.get(metadata);
  if (known !== undefined) return known;

  const modifiedSeconds = Number(metadata.modifiedNs / 1_000_000_000n);
  // RFC 9110 §8.8.2.1: a date in the future is replaced by the time of the message.
  const lastModifiedSeconds = Math.min(modifiedSeconds, nowSeconds);
  const tag: EntityTag = { weak: false, opaque: formatMetadataTag(metadata) };
  const validators = ["ETag", tag.opaque, "Last-Modified", formatHttpDate(lastModifiedSeconds)];
  const content = [
    "Content-Type",
    formatContentType(decideMediaType(path, rules.mediaTypes), rules.charset),
    "Content-Length",
    String(metadata.sizeBytes),
  ];
  const caching = ["Cache-Control", "no-cache"];
  const safety = ["X-Content-Type-Options", "nosniff"];
  const representation: Representation = {
    tag,
    lastModifiedSeconds,
    fields: [...content, ...caching, ...validators, ...safety],
    notModifiedFields: [...caching, ...validators],
    errorFields: [...content, ...caching, ...safety],
  };
  if (modifiedSeconds <= nowSeconds) rules.representations.set(metadata, representation);
  return representation;
}
