import type { FileMetadata, NameCode } from "../../core/source.js";

/** A file as it was sealed. It is its own metadata, so that many of them take little memory. */
export class SealedEntry implements FileMetadata {
  readonly sizeBytes: number;
  /** In milliseconds since the epoch: nothing is told of it but in listings. */
  readonly modifiedMs: number;
  /** SHA-256, in base64url without padding. */
  readonly digest: string;

  /** How it was known whether its name is fingerprinted; undefined where nobody asked. */
  readonly name: NameCode | undefined;

  constructor(sizeBytes: number, modifiedMs: number, digest: string, name?: NameCode) {
    this.name = name;
    this.sizeBytes = sizeBytes;
    this.modifiedMs = modifiedMs;
    this.digest = digest;
  }

  get modifiedNs(): bigint {
    return BigInt(Math.trunc(this.modifiedMs)) * 1_000_000n;
  }
}
