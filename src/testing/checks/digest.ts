/** Reads a digest: an algorithm's name and its value, in hexadecimal or as RFC 9530 §2 writes it. */
export function readDigest(
  text: string,
): { algorithm: "sha256" | "sha512"; hex: string; written: "hex" | "base64" } | undefined {
  const match = /^sha-(256|512)=(?::([A-Za-z0-9+/]+={0,2}):|([0-9a-fA-F]+))$/.exec(text);
  if (match === null) return undefined;
  const written = match[2] === undefined ? "hex" : "base64";
  const bytes = Buffer.from(match[2] ?? match[3]!, written);
  if (bytes.length * 8 !== Number(match[1])) return undefined;
  return { algorithm: match[1] === "256" ? "sha256" : "sha512", hex: bytes.toString("hex"), written };
}
