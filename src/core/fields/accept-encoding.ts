import { isToken, readWeight, splitMembers } from "./grammar.js";

/** Reads an Accept-Encoding field: weights by coding name in lower case, `*` among them. Malformed entries are left out. */
export function parseAcceptEncoding(value: string): ReadonlyMap<string, number> {
  const weights = new Map<string, number>();
  for (const entry of splitMembers(value, ",")) {
    const [name = "", ...parameters] = splitMembers(entry, ";");
    if (!isToken(name) || parameters.length > 1) continue;
    const weight = parameters[0] === undefined ? 1 : readWeight(parameters[0]);
    if (weight === undefined) continue;
    // RFC 9110 §8.4.1.3: x-gzip is gzip.
    weights.set(name.toLowerCase() === "x-gzip" ? "gzip" : name.toLowerCase(), weight);
  }
  return weights;
}
