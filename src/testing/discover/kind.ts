import { decideTypeByContent, HEADER_BYTES } from "../../core/media-types/content.js";
import { decideKind, type Kind } from "../../reading/contents/kinds.js";
import type { Reply } from "../ask/ask.js";
import { readContent, readMediaType } from "../checks/content.js";

/** What an answer is for. Where it names no type, its beginning decides, as it does in a browser (MIME Sniffing §7.1). */
export function kindOf(reply: Reply): Kind {
  const mediaType = readMediaType(reply.headers);
  if (mediaType !== undefined || reply.body.length === 0) return decideKind(mediaType);
  const content = readContent(reply);
  return decideKind(content.ok ? decideTypeByContent(content.bytes.subarray(0, HEADER_BYTES)) : undefined);
}
