interface Encoder {
  encode(text: string): Uint8Array;
}

// Every platform has it; the ECMAScript library alone has not.
const { TextEncoder } = globalThis as unknown as { TextEncoder: new () => Encoder };
const encoder = new TextEncoder();

/** Encodes text as UTF-8. Lone surrogates become U+FFFD (Encoding Standard §8.2). */
export function encodeUtf8(text: string): Uint8Array {
  return encoder.encode(text);
}
