import type { ListingEntry } from "../rules/listing.js";

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
  if (kind === "broken") return { word: "Broken link", symbol: "lost" };
  if (kind === "unreadable") return { word: "Cannot be read", symbol: "lost" };
  if (kind === "special") return { word: "No file", symbol: "lost" };
  if (href === undefined) return { word: "Has no address", symbol: "lost" };
  const match = BY_TYPE.find(([pattern]) => pattern.test(mediaType ?? ""));
  return match === undefined ? { word: "File", symbol: "file" } : { word: match[1], symbol: match[2] };
}
