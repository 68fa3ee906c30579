/** An object of a store, as a list tells of it. */
export interface ListedObject {
  readonly key: string;
  readonly sizeBytes: number;
  /** Milliseconds since the epoch. */
  readonly changedMs: number;
}

/** What is read of an object. */
export interface ReadOptions {
  /** A longer object is an error, in bytes: a store that is wrong fills no memory. */
  readonly atMost: number;
  /** Only these bytes. */
  readonly part?: { readonly offset: number; readonly length: number };
  /** All attempts together may take this long, in milliseconds. */
  readonly deadlineMs: number;
}

/** What is written: its size, and its SHA-256 in hexadecimal, are known beforehand. */
export interface WrittenBody {
  readonly sizeBytes: number;
  readonly digest: string;
  /** The bytes, from the beginning with each call: a write that failed is tried again. */
  readonly open: () => AsyncIterable<Uint8Array>;
}

/**
 * Where a release store keeps its objects: keys with slashes, and bytes. An object is there whole or not at all. Every call rejects
 * with a StoreError when the store cannot do it.
 */
export interface ObjectStore {
  /** As it was written, without secrets. */
  readonly name: string;
  /** How long it may take until everybody reads what was written, in milliseconds. */
  readonly settlesMs: number;
  /** All bytes of an object, or a part; undefined if no such object exists. */
  read(key: string, options: ReadOptions): Promise<Uint8Array | undefined>;
  /** An object's size in bytes; undefined if no such object exists. */
  sizeOf(key: string): Promise<number | undefined>;
  write(key: string, body: WrittenBody): Promise<void>;
  /** Writes an object unless there is one, in one step: false where there was. Left out where the store has no such step. */
  create?(key: string, bytes: Uint8Array): Promise<boolean>;
  remove(key: string): Promise<void>;
  /** The objects whose keys begin with this. */
  list(prefix: string): AsyncIterable<ListedObject>;
}

/** What a store could not do. */
export class StoreError extends Error {
  /** It may be able to in a moment: the request is worth asking again. */
  readonly isTemporary: boolean;

  constructor(
    message: string,
    { isTemporary = true, cause }: { isTemporary?: boolean; cause?: unknown } = {},
  ) {
    super(message, cause === undefined ? {} : { cause });
    this.name = "StoreError";
    this.isTemporary = isTemporary;
  }
}
