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

/** True for a type that pages load again and again. */
export function isLoadedByPages(mediaType: string | undefined): boolean {
  return ["script", "style", "picture", "font"].includes(decideKind(mediaType));
}

/** True for a type whose content people read as text. */
export function isTextual(mediaType: string | undefined): boolean {
  return /^(?:text\/|application\/(?:json|xml|javascript|yaml|.+\+(?:json|xml))$|image\/svg\+xml$)/.test(
    mediaType ?? "",
  );
}

/** Names that one content goes by: registered ones, what they were called before, and what its bytes alone cannot tell apart. */
const SAME: readonly (readonly string[])[] = [
  ["text/javascript", "application/javascript", "application/x-javascript", "application/ecmascript"],
  ["font/woff2", "application/font-woff2"],
  ["font/woff", "application/font-woff"],
  // Outlines of either kind come under either name.
  ["font/ttf", "font/otf", "font/sfnt", "font/collection"],
  ["image/x-icon", "image/vnd.microsoft.icon"],
  ["image/bmp", "image/x-ms-bmp"],
  ["image/heic", "image/heif", "image/heic-sequence", "image/heif-sequence"],
  ["audio/wav", "audio/wave", "audio/x-wav", "audio/vnd.wave"],
  ["application/xml", "text/xml"],
  ["application/gzip", "application/x-gzip"],
  ["application/vnd.rar", "application/x-rar-compressed"],
  ["application/yaml", "text/yaml", "application/x-yaml", "text/x-yaml"],
  ["application/geo+json", "application/json"],
  ["application/manifest+json", "application/json"],
  ["audio/mpeg", "audio/mp3"],
  ["audio/mp4", "video/mp4", "audio/x-m4a"],
  ["audio/ogg", "video/ogg", "application/ogg"],
  ["text/markdown", "text/plain"],
];

/** True for two names of one type. */
export function isSameType(a: string, b: string): boolean {
  return a === b || SAME.some((names) => names.includes(a) && names.includes(b));
}

/** Formats that begin with marks of their own, and hold no other one. */
const MARKED = /^application\/(?:pdf|zip|gzip|x-gzip|zstd|wasm|x-7z-compressed|vnd\.rar|x-rar-compressed)$/;
const isTelling = (type: string): boolean => /^(?:image|font|audio|video)\//.test(type);
const isMedia = (type: string): boolean => /^(?:audio|video)\//.test(type) || type === "application/ogg";
/** Pictures, sounds and films that are written as text. */
const WRITTEN = /^(?:image\/svg\+xml|audio\/(?:x-)?(?:mpegurl|scpls)|video\/mp2t)$/;

/**
 * True where a content may go by a media type. `content` is what its first bytes show (`decideTypeByContent`): many formats are packed in
 * another one, documents in ZIP and sound in Ogg; pictures and fonts are not.
 */
export function fits(type: string, content: string): boolean {
  if (isSameType(type, content) || /octet-stream$/.test(content)) return true;
  if (/^text\/(?:plain|html|xml)$/.test(content))
    return (!isTelling(type) && !MARKED.test(type)) || WRITTEN.test(type);
  if (/^(?:image|font)\//.test(content) || MARKED.test(type)) return false;
  if (isMedia(content)) return isMedia(type) || /^application\//.test(type);
  // An archive, a document or a module.
  return !isTelling(type) && !/^text\//.test(type);
}

/** True for a page under the name of a script, a style sheet or data: the error page, or the application's. */
export function isPageInstead(type: string, start: string): boolean {
  return (
    ["script", "style", "data"].includes(decideKind(type)) &&
    !/xml$/.test(type) &&
    /^\ufeff?\s*<(?:!doctype html|html[\s>])/i.test(start)
  );
}

/** The extension of an address's last segment, in lower case with its dot; empty when it has none. */
export function extensionOf(path: string): string {
  const name = path.replace(/[?#].*$/s, "").replace(/^.*\//s, "");
  const dot = name.lastIndexOf(".");
  return dot > 0 ? name.slice(dot).toLowerCase() : "";
}
