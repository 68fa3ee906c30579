import { AddressNames } from "../reading/builds/by-address.js";

/** What a build made, as far as its names count: Rollup's and Rolldown's own form. */
export interface BuiltFile {
  readonly type: "asset" | "chunk";
  readonly fileName: string;
  /** Of a chunk: its name before the digest was known. */
  readonly preliminaryFileName?: string;
  /** Of an asset: what it was made from; empty where its name was given whole. */
  readonly names?: readonly string[];
}

/** How a build names its assets: a pattern with `[name]` and `[hash]`, or what gives one. */
export type AssetFileNames = string | ((asset: never) => string) | undefined;

const VITE_DEFAULT = "assets/[name]-[hash][extname]";

/** The names of a build that end in a digest of their content. */
export function hashedNames(
  bundle: Readonly<Record<string, BuiltFile>>,
  assetFileNames: AssetFileNames,
): string[] {
  const files = Object.values(bundle);
  const made = files.filter((file) => isMade(file, assetFileNames)).map(({ fileName }) => fileName);
  // A name that a plugin gave whole may have a digest, too: if it ends like the others.
  const alike = new AddressNames(files.map(({ fileName }) => fileName));
  const given = files.filter(({ names }) => names?.length === 0).map(({ fileName }) => fileName);
  return [...new Set([...made, ...given.filter((name) => alike.has(name))])].sort();
}

function isMade(file: BuiltFile, assetFileNames: AssetFileNames): boolean {
  if (file.type === "chunk")
    return file.preliminaryFileName !== undefined && file.preliminaryFileName !== file.fileName;
  if (file.names === undefined || file.names.length === 0) return false;
  const pattern =
    typeof assetFileNames === "function" ? assetFileNames(file as never) : (assetFileNames ?? VITE_DEFAULT);
  return /\[hash[^\]]*\]/.test(pattern) && toTest(pattern).test(file.fileName);
}

// Rollup's placeholders; `[hash:12]` has twelve characters, `[hash]` eight.
function toTest(pattern: string): RegExp {
  const source = pattern.replace(
    /\[(hash)(?::(\d+))?\]|\[[^\]]*\]|[\\^$.*+?()[\]{}|]/g,
    (found, hash, length) =>
      hash === undefined
        ? found.startsWith("[") && found.length > 2
          ? ".*"
          : `\\${found}`
        : `[\\w-]{${length ?? 8}}`,
  );
  return new RegExp(`^${source}$`);
}
