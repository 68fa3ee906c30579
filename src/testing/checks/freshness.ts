import { formatDuration } from "../../config/durations.js";
import { parseCacheControl } from "../../core/fields/cache-control.js";
import { parseHttpDate } from "../../core/fields/http-date.js";

/** For how long a private cache, such as a browser's, may use a copy without asking. */
export type Freshness =
  | { readonly kind: "not stored" }
  /** In seconds; 0 for a copy that is always asked about. */
  | { readonly kind: "explicit"; readonly seconds: number }
  /** Nothing says so: the cache may guess (RFC 9111 §4.2.2). */
  | { readonly kind: "left to the cache" };

/** The freshness of an answer for a private cache, RFC 9111 §4.2.1. */
export function decideFreshness(headers: Readonly<Record<string, string>>): Freshness {
  const { directives } = parseCacheControl(headers["cache-control"] ?? "");
  if (directives.has("no-store")) return { kind: "not stored" };
  // §5.2.2.4: no-cache needs the copy asked about each time, however fresh it is. With field names it is about those only.
  if (directives.get("no-cache") === true) return { kind: "explicit", seconds: 0 };
  // §4.2.1: max-age before Expires. One that cannot be read counts as stale (§4.2.1, last paragraph).
  const maxAge = directives.get("max-age");
  if (maxAge !== undefined) return { kind: "explicit", seconds: readSeconds(maxAge) ?? 0 };
  const { expires, date } = headers;
  if (expires !== undefined) {
    const now = Date.now() / 1000;
    const until = parseHttpDate(expires, now);
    const from = date === undefined ? now : (parseHttpDate(date, now) ?? now);
    return { kind: "explicit", seconds: until === undefined ? 0 : Math.max(0, Math.round(until - from)) };
  }
  return { kind: "left to the cache" };
}

/** How long networks may use a copy that are told so by their own field, in seconds (RFC 9213): the longest, and its field. */
export function findTargetedLifetime(
  headers: Readonly<Record<string, string>>,
): { readonly name: string; readonly seconds: number } | undefined {
  const told = Object.keys(headers).flatMap((name) => {
    if (!/-cache-control$|^surrogate-control$/.test(name)) return [];
    const { directives } = parseCacheControl(headers[name]!);
    const isAsked = directives.has("no-store") || directives.get("no-cache") === true;
    return [{ name, seconds: isAsked ? 0 : (readSeconds(directives.get("max-age")) ?? 0) }];
  });
  return told.sort((a, b) => b.seconds - a.seconds)[0];
}

export function readSeconds(value: string | true | undefined): number | undefined {
  return typeof value === "string" && /^\d+$/.test(value) ? Number(value) : undefined;
}

/** The freshness in the words that expectations use, with the fields it was read from. */
export function describeFreshness(headers: Readonly<Record<string, string>>): string {
  const freshness = decideFreshness(headers);
  const control = headers["cache-control"];
  const field =
    control !== undefined
      ? `Cache-Control: ${control}`
      : headers.expires !== undefined
        ? `Expires: ${headers.expires}`
        : "no Cache-Control";
  return `${speakFreshness(freshness)} (${field})`;
}

export function speakFreshness(freshness: Freshness): string {
  if (freshness.kind !== "explicit") return freshness.kind;
  return freshness.seconds === 0 ? "revalidated each time" : `fresh for ${formatDuration(freshness.seconds)}`;
}
