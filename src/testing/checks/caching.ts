import { formatDuration, parseSpokenDuration } from "../../config/durations.js";
import { parseCacheControl } from "../../core/fields/cache-control.js";
import type { Check } from "./check.js";
import { decideFreshness, describeFreshness, readSeconds } from "./freshness.js";

type Headers = Readonly<Record<string, string>>;

/** What a phrase about caching demands. */
export interface CachingPhrase {
  readonly text: string;
  holds(headers: Headers): boolean;
  describe(headers: Headers): string;
}

/** The phrases that stand for themselves, with what each demands (RFC 9111 §5.2.2, RFC 8246 §2). */
const PHRASES: Readonly<Record<string, (headers: Headers) => boolean>> = {
  "not stored": (headers) => decideFreshness(headers).kind === "not stored",
  "revalidated each time": (headers) => freshSeconds(headers) === 0,
  "left to the cache": (headers) => decideFreshness(headers).kind === "left to the cache",
  immutable: (headers) => directive(headers, "immutable") !== undefined,
  private: (headers) => directive(headers, "private") !== undefined,
  "not transformed": (headers) => directive(headers, "no-transform") !== undefined,
};

const FRESH = /^(fresh|shared) for (?:(at least|at most) )?(.+)$/;

export const CACHING_FORMS = `${Object.keys(PHRASES).join(", ")}, fresh for [at least | at most] 1 year (or another time), shared for [at least | at most] 10 minutes`;

/** Reads a phrase about caching; undefined when it is none. */
export function parseCachingPhrase(text: string): CachingPhrase | undefined {
  const plain = PHRASES[text];
  if (plain !== undefined) return { text, holds: plain, describe: describeFreshness };
  const [, who, bound, written] = FRESH.exec(text) ?? [];
  const wanted = written === undefined ? undefined : parseSpokenDuration(written);
  if (wanted === undefined) return undefined;
  const secondsOf = who === "shared" ? sharedSeconds : freshSeconds;
  const holds = (headers: Headers): boolean => {
    const seconds = secondsOf(headers);
    // "At most" is about copies that are kept: one that is not, or is revalidated each time, keeps it too.
    if (seconds === undefined)
      return bound === "at most" && decideFreshness(headers).kind !== "left to the cache";
    return bound === "at least"
      ? seconds >= wanted
      : bound === "at most"
        ? seconds <= wanted
        : seconds === wanted;
  };
  const describe = who === "shared" ? describeShared : describeFreshness;
  return { text, holds, describe };
}

/** One check for each phrase. */
export function checkCaching(phrases: readonly string[]): Check[] {
  return phrases.map((text) => {
    const phrase = parseCachingPhrase(text)!;
    return {
      about: "caching",
      expected: text,
      look: ({ reply }) =>
        phrase.holds(reply.headers) ? undefined : { text: phrase.describe(reply.headers) },
    };
  });
}

function directive(headers: Headers, name: string): string | true | undefined {
  return parseCacheControl(headers["cache-control"] ?? "").directives.get(name);
}

function freshSeconds(headers: Headers): number | undefined {
  const freshness = decideFreshness(headers);
  return freshness.kind === "explicit" ? freshness.seconds : undefined;
}

// RFC 9111 §5.2.2.7, §5.2.2.10: a shared cache keeps nothing that is private, and goes by s-maxage first.
function sharedSeconds(headers: Headers): number | undefined {
  if (directive(headers, "private") !== undefined || decideFreshness(headers).kind === "not stored")
    return undefined;
  return readSeconds(directive(headers, "s-maxage")) ?? freshSeconds(headers);
}

function describeShared(headers: Headers): string {
  const seconds = sharedSeconds(headers);
  const field = `Cache-Control: ${headers["cache-control"] ?? "none"}`;
  if (seconds === undefined) return `without a lifetime for shared caches (${field})`;
  return `${seconds === 0 ? "revalidated each time" : `shared for ${formatDuration(seconds)}`} (${field})`;
}
