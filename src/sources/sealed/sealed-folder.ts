import type {
  Diagnosis,
  EntryMetadata,
  FileSource,
  Found,
  Look,
  NameCode,
  OpenedDirectory,
} from "../../core/source.js";
import { joinPath } from "../../core/text/path.js";
import { missing } from "../open-errors.js";
import { FileAtHand } from "./file-at-hand.js";
import type { SealedBytes } from "./sealed-bytes.js";
import type { SealedEntry } from "./sealed-entry.js";

const NEVER_CHANGES: Look = { holds: () => true, changedMs: Number.NEGATIVE_INFINITY };

/**
 * A folder as it was at one moment: its names, sizes, times and digests. The bytes come from elsewhere, and are refused unless they are
 * those that were sealed.
 */
export class SealedFolder implements FileSource {
  readonly name: string;
  readonly #bytes: SealedBytes;
  readonly #files = new Map<string, SealedEntry>();
  readonly #directories = new Map<string, Set<string>>([["", new Set()]]);

  constructor(name: string, bytes: SealedBytes) {
    this.name = name;
    this.#bytes = bytes;
  }

  /** Its files, by path. */
  get files(): ReadonlyMap<string, SealedEntry> {
    return this.#files;
  }

  add(path: string, entry: SealedEntry): void {
    this.#files.set(path, entry);
    this.#addNames(path);
  }

  open(path: string): Found | Promise<Found> {
    const entry = this.#files.get(path);
    if (entry !== undefined) {
      const bytes = this.#bytes.atHand(entry);
      return bytes === undefined
        ? this.#bytes.load(path, entry)
        : { kind: "file", file: new FileAtHand(entry, bytes) };
    }
    const names = this.#directories.get(path);
    return names === undefined
      ? missing("no-such-file")
      : { kind: "directory", directory: this.#openDirectory(path, names) };
  }

  look(_path: string, found: Found): Look | undefined {
    const isAtHand = found.kind === "file" && found.file.bytes !== undefined;
    return isAtHand || found.kind === "missing" || found.kind === "directory" ? NEVER_CHANGES : undefined;
  }

  lookInside(): Look {
    return NEVER_CHANGES;
  }

  sealedName(path: string): NameCode | undefined {
    return this.#files.get(path)?.name;
  }

  diagnose(path: string): Promise<Diagnosis | undefined> {
    return this.#bytes.diagnose(path);
  }

  #addNames(path: string): void {
    const slash = path.lastIndexOf("/");
    const parent = slash < 0 ? "" : path.slice(0, slash);
    const names = this.#directories.get(parent);
    if (names !== undefined) {
      names.add(path.slice(slash + 1));
      return;
    }
    this.#directories.set(parent, new Set([path.slice(slash + 1)]));
    this.#addNames(parent);
  }

  #openDirectory(path: string, names: ReadonlySet<string>): OpenedDirectory {
    const describe = (name: string): EntryMetadata | undefined => {
      const full = joinPath(path, name);
      const entry = this.#files.get(full);
      if (entry !== undefined)
        return { kind: "file", sizeBytes: entry.sizeBytes, modifiedNs: entry.modifiedNs };
      return this.#directories.has(full) ? { kind: "directory", sizeBytes: 0, modifiedNs: 0n } : undefined;
    };
    return {
      version: "sealed",
      list: async () => [...names].map((name) => ({ name, kind: describe(name)?.kind })),
      stat: async (name) => describe(name),
      isInPlace: async () => true,
      close() {},
    };
  }
}
