import { isCompressible } from "../media-types/media-type.js";
import { rankCodings } from "../represent/coding.js";
import { COMPRESS_FROM, COMPRESS_UP_TO } from "../represent/profile.js";
import { fieldValue, type SiteRequest } from "../request/request.js";
import type { FileProfile, Rules } from "../rules/rules.js";

/** Why a file is sent as it is, and in no content coding, in words. For explanations. */
export function explainPlain(
  request: SiteRequest,
  profile: FileProfile,
  rules: Rules,
  sizeBytes: number,
): string {
  const { prebuilt, compress } = rules.codings;
  if (!isCompressible(profile.contentType)) return "its type gets no smaller by compressing";
  if (!compress && prebuilt.length === 0) return "codings are off";
  if (prebuilt.length === 0 && sizeBytes < COMPRESS_FROM)
    return `it is smaller than ${COMPRESS_FROM.toLocaleString("en-GB")} bytes`;
  if (prebuilt.length === 0 && sizeBytes > COMPRESS_UP_TO)
    return `it is larger than ${COMPRESS_UP_TO / 1024 / 1024} MiB, and not compressed on the fly`;
  if (profile.codings.length === 0) return "its caching rule says no-transform";
  const accept = fieldValue(request.headers, "accept-encoding");
  if (accept === undefined) return "the request has no Accept-Encoding";
  if (rankCodings(accept, profile.codings).length === 0)
    return `Accept-Encoding names none that is offered (${profile.codings.join(", ")})`;
  return "none is prebuilt, or compressing does not make it smaller";
}
