import { isAddressable } from "../core/request/target.js";
import type {
  EntryMetadata,
  FileMetadata,
  FileSource,
  Found,
  Look,
  OpenedDirectory,
  OpenedFile,
} from "../core/source.js";
import { joinPath } from "../core/text/path.js";
import { encodeUtf8 } from "../core/text/utf8.js";

/** A file of a memory source: its text or bytes, or those with the time of the last modification. */
export type MemoryFile =
  | string
  | Uint8Array
  | { readonly content: string | Uint8Array; readonly modified: Date };

/** Paths (segments joined by slashes, none in front) and what is in them. */
export type MemoryTree = Readonly<Record<string, MemoryFile>>;

interface Entry {
  readonly bytes: Uint8Array;
  readonly metadata: FileMetadata;
}

/**
 * A source whose files are in memory: for tests, for workers and browsers, for files that an application makes itself.
 * Files without their own time get `modified` (default: the moment of the call). Throws a RangeError for a path that
 * no address can name, and a TypeError for a file without content.
 */
export function memorySource(tree: MemoryTree, options: { modified?: Date } = {}): FileSource {
  const modified = options.modified ?? new Date();
  checkTree(tree, modified);
  const files = new Map<string, Entry>();
  const directories = new Map<string, Set<string>>([["", new Set()]]);

  for (const [path, file] of Object.entries(tree)) {
    const segments = path.split("/");
    if (segments.some((s) => s === "" || s === "." || s === ".." || !isAddressable(s))) {
      throw new RangeError(
        `memorySource: found the path ${JSON.stringify(path)}, which no URL can name; write one such as "guide/index.html".`,
      );
    }
    checkFile(path, file);
    files.set(path, toEntry(file, modified));
    let parent = "";
    for (const segment of segments) {
      const names = directories.get(parent) ?? new Set();
      directories.set(parent, names.add(segment));
      parent = joinPath(parent, segment);
    }
  }

  const both = [...files.keys()].find((path) => directories.has(path));
  if (both !== undefined)
    throw new RangeError(
      `memorySource: found ${JSON.stringify(both)} as a file and as a folder; rename one.`,
    );

  const describe = (path: string): EntryMetadata | undefined => {
    const entry = files.get(path);
    if (entry !== undefined) return { kind: "file", ...entry.metadata };
    if (!directories.has(path)) return undefined;
    return { kind: "directory", sizeBytes: 0, modifiedNs: BigInt(modified.getTime()) * 1_000_000n };
  };

  return {
    name: "memory",
    open(path): Found {
      const entry = files.get(path);
      if (entry !== undefined) return { kind: "file", file: openEntry(entry) };
      const names = directories.get(path);
      if (names === undefined) return { kind: "missing", because: "no-such-file" };
      const below = path === "" ? "" : `${path}/`;
      return { kind: "directory", directory: openDirectory(names, (name) => describe(below + name)) };
    },
    look: () => NEVER_CHANGES,
    lookInside: () => NEVER_CHANGES,
    async diagnose() {
      return undefined;
    },
  };
}

function checkTree(tree: unknown, modified: unknown): void {
  if (typeof tree !== "object" || tree === null || Array.isArray(tree))
    throw new TypeError(
      `memorySource: found ${Array.isArray(tree) ? "a list" : "no files"}; write memorySource({ "index.html": "<h1>…</h1>" }).`,
    );
  if (!(modified instanceof Date) || Number.isNaN(modified.getTime()))
    throw new TypeError("memorySource: found modified, which is no valid Date; write new Date().");
}

function checkFile(path: string, file: unknown): void {
  const isBytes = (value: unknown): boolean => typeof value === "string" || value instanceof Uint8Array;
  const { content, modified } = (file ?? {}) as { content?: unknown; modified?: unknown };
  if (isBytes(file) || (isBytes(content) && modified instanceof Date)) return;
  throw new TypeError(
    `memorySource: found no content for ${JSON.stringify(path)}; write a string, a Uint8Array, or { content, modified }.`,
  );
}

const NEVER_CHANGES: Look = { holds: () => true, changedMs: Number.NEGATIVE_INFINITY };

function toEntry(file: MemoryFile, fallback: Date): Entry {
  const plain = typeof file === "string" || file instanceof Uint8Array;
  const content = plain ? file : file.content;
  const modified = plain ? fallback : file.modified;
  const bytes = typeof content === "string" ? encodeUtf8(content) : content;
  return {
    bytes,
    metadata: { sizeBytes: bytes.length, modifiedNs: BigInt(modified.getTime()) * 1_000_000n },
  };
}

function openDirectory(
  names: ReadonlySet<string>,
  describe: (name: string) => EntryMetadata | undefined,
): OpenedDirectory {
  return {
    version: "memory",
    list: async () => [...names].map((name) => ({ name, kind: describe(name)?.kind })),
    stat: async (name) => describe(name),
    isInPlace: async () => true,
    close() {},
  };
}

function openEntry({ bytes, metadata }: Entry): OpenedFile {
  return {
    metadata,
    read: async (offset, length) => bytes.subarray(offset, offset + length),
    digest: async () =>
      toBase64Url(new Uint8Array(await crypto.subtle.digest("SHA-256", bytes as Uint8Array<ArrayBuffer>))),
    isUnchanged: () => true,
    close() {},
  };
}

function toBase64Url(bytes: Uint8Array): string {
  return btoa(String.fromCharCode(...bytes))
    .replaceAll("+", "-")
    .replaceAll("/", "_")
    .replaceAll("=", "");
}
