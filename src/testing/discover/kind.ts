import { decideTypeByContent, HEADER_BYTES } from "../../core/media-types/content.js";
import type { Reply } from "../ask/ask.js";
import { readContent, readMediaType } from "../checks/content.js";

/** What a file is for, told by its media type. */
export type Kind =
  | "document"
  | "style"
  | "script"
  | "picture"
  | "font"
  | "sound"
  | "film"
  | "data"
  | "text"
  | "other";

const KINDS: readonly (readonly [pattern: RegExp, kind: Kind])[] = [
  [/^(?:text\/html|application\/xhtml\+xml)$/, "document"],
  [/^text\/css$/, "style"],
  [/^(?:text|application)\/(?:x-)?(?:java|ecma)script$/, "script"],
  [/^image\//, "picture"],
  [/^(?:font\/|application\/(?:x-)?font-|application\/vnd\.ms-fontobject)/, "font"],
  [/^audio\//, "sound"],
  [/^video\//, "film"],
  [
    /^(?:application\/(?:json|xml|.+\+json|.+\+xml|yaml)|text\/(?:csv|tab-separated-values|xml|yaml))$/,
    "data",
  ],
  [/^text\//, "text"],
];

export function decideKind(mediaType: string | undefined): Kind {
  return KINDS.find(([pattern]) => pattern.test(mediaType ?? ""))?.[1] ?? "other";
}

/** What an answer is for. Where it names no type, its beginning decides, as it does in a browser (MIME Sniffing §7.1). */
export function kindOf(reply: Reply): Kind {
  const mediaType = readMediaType(reply.headers);
  if (mediaType !== undefined || reply.body.length === 0) return decideKind(mediaType);
  const content = readContent(reply);
  return decideKind(content.ok ? decideTypeByContent(content.bytes.subarray(0, HEADER_BYTES)) : undefined);
}

/** The extension of an address's last segment, in lower case with its dot; empty when it has none. */
export function extensionOf(path: string): string {
  const name = path.replace(/[?#].*$/s, "").replace(/^.*\//s, "");
  const dot = name.lastIndexOf(".");
  return dot > 0 ? name.slice(dot).toLowerCase() : "";
}
