import { timingSafeEqual } from "node:crypto";
import type { IncomingMessage } from "node:http";

/**
 * Whether a request to the lab comes from its own page: with the token in its path, for a name of this machine, and from no other
 * origin. Gives the path behind the token, or undefined.
 */
export function readGuarded(request: IncomingMessage, token: string, port: number): string | undefined {
  const { host = "", origin, "sec-fetch-site": from } = request.headers;
  // A name that a stranger's server gave for this machine is none of its names.
  if (!NAMES.some((name) => host === `${name}:${port}`)) return undefined;
  if (origin !== undefined && origin !== `http://${host}`) return undefined;
  if (from !== undefined && from !== "same-origin" && from !== "none") return undefined;
  const [, given, rest] = /^\/([^/?]*)(\/.*)$/s.exec(request.url ?? "") ?? [];
  return given !== undefined && isSame(given, token) ? rest : undefined;
}

const NAMES = ["127.0.0.1", "localhost", "[::1]"];

function isSame(given: string, token: string): boolean {
  const [a, b] = [Buffer.from(given), Buffer.from(token)];
  return a.length === b.length && timingSafeEqual(a, b);
}
