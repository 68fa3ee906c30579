/** The bytes that were compressed with gzip; undefined where they are damaged, or are more than `atMost`. */
export async function unpack(
  bytes: Uint8Array<ArrayBufferLike>,
  atMost: number,
): Promise<Uint8Array | undefined> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  try {
    for await (const piece of new Blob([bytes as Uint8Array<ArrayBuffer>])
      .stream()
      .pipeThrough(new DecompressionStream("gzip"))) {
      length += piece.length;
      if (length > atMost) return undefined;
      pieces.push(piece);
    }
  } catch {
    return undefined;
  }
  const whole = new Uint8Array(length);
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece, at);
    at += piece.length;
  }
  return whole;
}
