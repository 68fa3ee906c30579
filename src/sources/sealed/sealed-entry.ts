import type { FileMetadata, NameCode } from "../../core/source.js";

/** What a seal says of a file. */
export interface SealedFacts {
  readonly sizeBytes: number;
  /** In milliseconds since the epoch: nothing is told of it but in listings. */
  readonly modifiedMs: number;
  /** SHA-256, in base64url without padding. */
  readonly digest: string;
  /** How it was known whether its name is fingerprinted; undefined where nobody asked. */
  readonly name?: NameCode | undefined;
  /** The SHA-256 of each piece, one after another; undefined for a short file, and where nobody made them. */
  readonly pieces?: Uint8Array | undefined;
}

/** A file as it was sealed. It is its own metadata, so that many of them take little memory. */
export class SealedEntry implements FileMetadata, SealedFacts {
  readonly sizeBytes: number;
  readonly modifiedMs: number;
  readonly digest: string;
  readonly name: NameCode | undefined;
  readonly pieces: Uint8Array | undefined;

  constructor({ sizeBytes, modifiedMs, digest, name, pieces }: SealedFacts) {
    this.name = name;
    this.sizeBytes = sizeBytes;
    this.modifiedMs = modifiedMs;
    this.digest = digest;
    this.pieces = pieces;
  }

  get modifiedNs(): bigint {
    return BigInt(Math.trunc(this.modifiedMs)) * 1_000_000n;
  }
}
