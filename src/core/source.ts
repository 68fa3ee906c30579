/**
 * Where files come from. The core asks a source for one name at a time and never touches a disk itself. Paths are
 * decoded, joined by slashes, without a slash at either end; `""` is the source's own root.
 */
export interface FileSource {
  /** Its name in messages and traces: the folder as you wrote it, or "memory". */
  readonly name: string;
  /**
   * The source as it is now, for the length of one request: where its folder is a link, the folder that it leads to. Left out by
   * sources that never lead elsewhere.
   */
  snapshot?(): Promise<FileSource>;
  /** Opens a name. Never rejects: what goes wrong is an answer. The file or directory that is given must be closed. */
  open(path: string): Promise<Found> | Found;
  /** Opens a file without waiting, if that is quicker: for callers that read very many. Undefined if `open` must wait. */
  openNow?(path: string): Found | undefined;
  /**
   * How it can be told, without waiting, that a name that was opened a moment ago still means what was found. Undefined where it
   * cannot be told so; a source that leaves this out is asked each time.
   */
  look?(path: string, found: Found): Look | undefined;
  /**
   * Tells later, without waiting, whether a directory still has the names that it had in this version. Returns undefined if only reading the
   * directory again can tell. Optional.
   */
  lookInside?(path: string, version: string): Look | undefined;
  /** How it was known, when the source was sealed, whether a file's name is fingerprinted. */
  sealedName?(path: string): NameCode | undefined;
  /** Why a name cannot be opened: asked only for an explanation. Undefined when nothing is in the way. */
  diagnose(path: string): Promise<Diagnosis | undefined>;
}

/** How it is known whether a name is fingerprinted: the first four say that it is. */
export type NameCode =
  /** The build's own list names it. */
  | "build"
  /** The configuration names it. */
  | "configuration"
  /** It ends as most names of its folder do. */
  | "folder"
  /** Its ending cannot be anything else. */
  | "name"
  /** It is a document: links name it, whatever it is called. */
  | "document"
  /** It stood for other bytes before. */
  | "changed"
  /** It has no ending that could be a fingerprint. */
  | "no-ending"
  /** It ends like no other name of its folder, and not beyond doubt. */
  | "unlike-others";

/** Why a name cannot be opened, for the developer. */
export interface Diagnosis {
  /** In words, without a full stop: it may name what is on disk. */
  readonly text: string;
  /** What this process may not do, and the path that it may not do it with. */
  readonly denied?: { readonly path: string; readonly right: "read" | "execute" };
}

/** A look at a name: cheap, and made again each time. */
export interface Look {
  /** True while the name means the very same file or directory, unchanged and at the same place, or is still missing. */
  holds(): boolean;
  /** When what was found last changed, in milliseconds since the epoch; minus infinity for what never does. */
  readonly changedMs: number;
}

/** What a source found under a name: a file or directory, or why there is none. */
export type Found =
  | { kind: "file"; file: OpenedFile /** Where a symbolic link led, when one did. */; realPath?: string }
  | { kind: "directory"; directory: OpenedDirectory; realPath?: string }
  | { kind: "missing"; because: MissingCause }
  | { kind: "forbidden"; cause: string }
  /** Present, but neither a regular file nor a directory. */
  | { kind: "special" }
  /** Its name was given to another each time it was looked at; it may answer later. */
  | { kind: "unsettled" }
  /** Its bytes are not those that were sealed. */
  | { kind: "altered" }
  | Failed;

/** What a device or the system refuses. */
export interface Failed {
  readonly kind: "failed";
  readonly cause: string;
  /** It may answer later: the process has no descriptors left, or a release store does not answer. */
  readonly busy: boolean;
}

/** Why a source has nothing to give under a name. */
export type MissingCause =
  | "no-such-file"
  | "not-a-directory"
  | "name-differs"
  | "name-not-portable"
  | "link-leads-outside"
  | "link-not-followed"
  | "link-loop";

/**
 * What an entry of a directory is. `broken`: a link that leads nowhere, or not where it may; `special`: a pipe, socket or device;
 * `unreadable`: there, and this process has no permission to read it.
 */
export type EntryKind = "directory" | "file" | "broken" | "special" | "unreadable";

/** An entry as a source tells of it, without opening it. */
export interface SourceEntry {
  readonly name: string;
  /** Undefined for a symbolic link: what it leads to is known only with its metadata. */
  readonly kind: EntryKind | undefined;
}

/** What a source knows of an entry when asked for it by itself. */
export interface EntryMetadata {
  readonly kind: EntryKind;
  readonly sizeBytes: number;
  /** Nanoseconds since 1970-01-01T00:00:00Z. */
  readonly modifiedNs: bigint;
  /** Where a symbolic link leads inside the source, for a link. */
  readonly realPath?: string | undefined;
}

/** What is known about a file's bytes before one of them is read. The same object while the file is unchanged. */
export interface FileMetadata {
  readonly sizeBytes: number;
  /** Time of the last modification, in nanoseconds since 1970-01-01T00:00:00Z. */
  readonly modifiedNs: bigint;
  /**
   * When anything of the file last changed, its time among it, in the same unit: what changed a moment ago may change once more
   * without a sign. Left out for bytes that never change.
   */
  readonly changedNs?: bigint;
  /** True where the time says nothing of the content: a tool gave the same one to most files that lie beside it. */
  readonly fixedTime?: boolean;
  /** The SHA-256 of all bytes, in base64url without padding, where it is known beforehand. Then no time counts. */
  readonly digest?: string;
}

/** A directory that was opened: what it says is of this very directory, whatever its name is given to meanwhile. */
export interface OpenedDirectory {
  /** Changes whenever an entry is added, removed or renamed; undefined when it cannot be known. */
  readonly version: string | undefined;
  /** Its entries, in no order; some of them, about `atMost`, where only this many are wanted. None is opened. */
  list(atMost?: number): Promise<readonly SourceEntry[] | Failed>;
  /** What is known about an entry without opening it; undefined when it is gone, or its link leads where it may not. */
  stat(name: string): Promise<EntryMetadata | undefined>;
  /** False when it does not lie any more where it was found: what was read since is not to be shown. */
  isInPlace(): Promise<boolean>;
  /** Releases the directory. Whoever owns it calls it once. */
  close(): void;
}

/** A file that was opened. Whoever gets it owns it, and closes it once. */
export interface OpenedFile {
  readonly metadata: FileMetadata;
  /** All bytes, where they are at hand and never change. */
  readonly bytes?: Uint8Array;
  /**
   * Reads `length` bytes from `offset`; fewer only when the file ends before. Rejects when the device fails. `into`, of at
   * least that length, may be filled and handed back instead of new memory.
   */
  read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array>;
  /** The SHA-256 of all its bytes, in base64url without padding. Rejects when the device fails. */
  digest(): Promise<string>;
  /** True while the file is as it was when it was opened. Left out where that cannot be told. */
  isUnchanged?(): boolean;
  /** Releases the file, after a read in progress. Whoever owns the file calls it once; a second call does nothing. */
  close(): void;
}
