import type { ListingEntry } from "./collect.js";

const ESCAPES: Readonly<Record<string, string>> = {
  "&": "&amp;",
  "<": "&lt;",
  ">": "&gt;",
  '"': "&quot;",
  "'": "&#39;",
};

/** Writes text so that HTML reads it as text, in content and in quoted attributes. */
export function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => ESCAPES[c]!);
}

/**
 * A name as it can be shown: control characters as their pictures, what would reorder the line or cannot be seen as its code,
 * blanks at the ends as open boxes. The link still leads to the name itself.
 */
export function showName(name: string): string {
  return name
    .toWellFormed()
    .replace(/[\x00-\x1f]/g, (c) => String.fromCharCode(0x2400 + c.charCodeAt(0)))
    .replace(/\x7f/g, "\u2421")
    .replace(/[\x80-\x9f\p{Cf}\p{Zl}\p{Zp}]/gu, (c) => `\\u{${c.codePointAt(0)!.toString(16)}}`)
    .replace(/^ +| +$/g, (blanks) => "\u2423".repeat(blanks.length));
}

/** A size as people read it, in powers of 1000. */
export function formatSize(bytes: number): string {
  const units = ["B", "kB", "MB", "GB", "TB"];
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value.toFixed(unit === 0 || value >= 99.95 ? 0 : 1)} ${units[unit]}`;
}

const BY_TYPE: readonly [pattern: RegExp, word: string, symbol: string][] = [
  [/^image\//, "Picture", "picture"],
  [/^audio\//, "Sound", "sound"],
  [/^video\//, "Film", "film"],
  [/^font\//, "Font", "font"],
  [
    /^text\/(?:csv|tab-separated-values)$|[/+](?:json|geo\+json|jsonl|yaml|toml|sql|cbor)$|spreadsheet|sqlite|parquet|excel/,
    "Data",
    "data",
  ],
  [/^text\/html$/, "Page", "text"],
  [/^text\/(?:css|javascript)$|wasm/, "Code", "text"],
  [/^text\/|pdf$|rtf$|msword|wordprocessing|opendocument\.text|epub/, "Text", "text"],
  [/zip|gzip|x-tar|7z|rar|bzip2|x-xz|zstd|package|archive/, "Archive", "archive"],
];

/** What an entry is, in a word and a drawing. */
export function describeKind({ kind, mediaType, href }: ListingEntry): { word: string; symbol: string } {
  if (kind === "directory") return { word: "Folder", symbol: "folder" };
  if (kind === "broken") return { word: "Cannot be had", symbol: "lost" };
  if (kind === "unreadable") return { word: "Cannot be read", symbol: "lost" };
  if (kind === "special") return { word: "No file", symbol: "lost" };
  if (href === undefined) return { word: "Has no address", symbol: "lost" };
  const match = BY_TYPE.find(([pattern]) => pattern.test(mediaType ?? ""));
  return match === undefined ? { word: "File", symbol: "file" } : { word: match[1], symbol: match[2] };
}
