interface Encoder {
  encode(text: string): Uint8Array;
}

// Every platform has it; the ECMAScript library alone has not.
const { TextEncoder } = globalThis as unknown as { TextEncoder: new () => Encoder };
const encoder = new TextEncoder();

interface Decoder {
  decode(bytes: Uint8Array): string;
}

const { TextDecoder } = globalThis as unknown as { TextDecoder: new () => Decoder };

/** Decodes UTF-8, without a byte order mark. What is none becomes U+FFFD. */
export function decodeUtf8(bytes: Uint8Array): string {
  return new TextDecoder().decode(bytes);
}

/** Encodes text as UTF-8. Lone surrogates become U+FFFD (Encoding Standard §8.2). */
export function encodeUtf8(text: string): Uint8Array {
  return encoder.encode(text);
}
