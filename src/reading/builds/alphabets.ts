/** An alphabet that digests are written in. */
export interface Alphabet {
  readonly name: string;
  readonly size: number;
  readonly isOf: RegExp;
}

/** From the smallest to the largest. */
export const ALPHABETS: readonly Alphabet[] = [
  { name: "hexadecimal", size: 16, isOf: /^(?:[0-9a-f]+|[0-9A-F]+)$/ },
  { name: "base32", size: 32, isOf: /^(?:[a-z2-7]+|[A-Z2-7]+)$/ },
  { name: "base36", size: 36, isOf: /^(?:[0-9a-z]+|[0-9A-Z]+)$/ },
  { name: "base58", size: 58, isOf: /^[1-9A-HJ-NP-Za-km-z]+$/ },
  { name: "base62", size: 62, isOf: /^[0-9A-Za-z]+$/ },
  { name: "base64url", size: 64, isOf: /^[\w-]+$/ },
];
