import { parseAcceptEncoding } from "../fields/accept-encoding.js";
import type { Coding } from "../rules/codings.js";

/**
 * The codings to try for a request, the most wanted first (RFC 9110 §12.5.3); the order of `offered` decides between equals.
 * Sending the bytes as they are comes after them: it is what is left when none can be had, also where `identity;q=0` asks for
 * a coding that is not there (the section lets the server send the representation without any).
 */
export function rankCodings(accept: string | undefined, offered: readonly Coding[]): readonly Coding[] {
  if (accept === undefined || accept === "" || offered.length === 0) return [];
  const weights = parseAcceptEncoding(accept);
  const any = weights.get("*") ?? 0;
  const weightOf = (name: string): number => weights.get(name) ?? any;
  // Not named, sending as it is stays acceptable, and is the least wanted.
  const plain = weights.get("identity") ?? (weights.get("*") === 0 ? 0 : Number.MIN_VALUE);
  return offered
    .filter((coding) => weightOf(coding) > 0 && weightOf(coding) >= plain)
    .sort((a, b) => weightOf(b) - weightOf(a));
}

/** What codings of a file are kept under: of an address one version, which is another object when the bytes are others. */
export interface CodingKey {
  readonly address: string;
  readonly version: object;
}

/** Compresses files, and keeps what it made in bounded memory. The core decides when; it knows no algorithm. */
export interface Compressor {
  /** The codings that this platform can make. */
  readonly codings: readonly Coding[];
  /** Marks the outcome of these algorithms in entity tags: another version may give other bytes. */
  readonly version: string;
  /**
   * The compressed bytes of a file, from memory or made now, once however many ask at a time. `read` gives all its bytes.
   * Undefined when compressing does not make it smaller.
   */
  compress(key: CodingKey, coding: Coding, read: () => Promise<Uint8Array>): Promise<Uint8Array | undefined>;
  /** The compressed bytes of what changes with each request: nothing of it is kept. Undefined when they are not fewer. */
  compressOnce(coding: Coding, bytes: Uint8Array): Promise<Uint8Array | undefined>;
  /** The SHA-256 of bytes, in base64url without padding. */
  digest(bytes: Uint8Array): string;
}
