import { parseCacheControl } from "../../core/fields/cache-control.js";
import { parseHttpDate } from "../../core/fields/http-date.js";
import { NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import { checkCaching } from "../checks/caching.js";
import {
  decideFreshness,
  describeFreshness,
  findTargetedLifetime,
  readSeconds,
} from "../checks/freshness.js";
import type { Sampled } from "../discover/sample.js";
import { demand, get, makeCase, type Pack } from "./pack.js";

const WITH_SECONDS = ["max-age", "s-maxage", "stale-while-revalidate", "stale-if-error"];

/** RFC 9111: how long copies are kept, by what their names promise. */
export const caching: Pack = (sample) => [
  ...sample.resources.flatMap(lookAt),
  ...sample.directories
    .filter((path) => path !== "/")
    .slice(0, 2)
    .map((path) => lookAtRedirect(path.slice(0, -1))),
  ...sample.shells.flatMap(({ links }) => links.map(lookAtShell)),
  makeCase(
    "a missing address has no long lifetime",
    get(sample.missingPath, { Accept: "*/*" }),
    [
      demand("caching", "fresh for at most 1 hour", ({ reply }) => {
        const freshness = decideFreshness(reply.headers);
        return freshness.kind === "explicit" && freshness.seconds > 3600
          ? describeFreshness(reply.headers)
          : undefined;
      }),
    ],
    "RFC 9110 §15.5.5: caches also keep a 404, and then miss a file that you add later",
  ),
];

function lookAtShell(link: string): ReturnType<Pack>[number] {
  return makeCase(
    `${link}, if an application answers there, has no long lifetime in a content delivery network`,
    get(link, NAVIGATION),
    [
      demand(
        "caching",
        "fresh for at most 1 hour for a content delivery network",
        ({ reply: { headers } }) => {
          const field = findTargetedLifetime(headers);
          return field !== undefined && field.seconds > 3600
            ? `${field.name}: ${headers[field.name]}`
            : undefined;
        },
      ),
    ],
    "RFC 9213: CDN-Cache-Control comes before Cache-Control, and every deep link is a separate copy",
  );
}

function lookAt(one: Sampled): ReturnType<Pack> {
  const { path, question, kind, fingerprinted } = one;
  const ask = (what: string, phrase: string, reason: string) =>
    makeCase(`${path} ${what}`, question, checkCaching([phrase]), reason);
  // What pages only link to is fetched once: nobody asks for it again.
  const isLinked = fingerprinted && /^(?:text|data|other)$/.test(kind);
  const lifetime =
    kind === "document"
      ? ask(
          "is a document: it has no long lifetime",
          "fresh for at most 1 hour",
          "a document names its files; an old copy names old files",
        )
      : fingerprinted
        ? ask(
            "has a fingerprint in its name: it has a long lifetime",
            "fresh for at least 30 days",
            "other content has another name, so asking again is useless",
          )
        : ask(
            "has no fingerprint in its name: it has no long lifetime",
            "fresh for at most 1 day",
            "when its content changes, visitors still see the old one",
          );
  return [
    makeCase(
      `${path} says how long a copy is fresh`,
      question,
      [
        demand("caching", "Cache-Control with max-age, no-cache or no-store; or Expires", ({ reply }) =>
          decideFreshness(reply.headers).kind === "left to the cache"
            ? describeFreshness(reply.headers)
            : undefined,
        ),
      ],
      "RFC 9111 §4.2.2: if nothing is said, each cache guesses",
    ),
    makeCase(
      `${path} has a Cache-Control that can be read`,
      question,
      [
        demand(
          "Cache-Control",
          "directives separated by commas, each once, without contradictions",
          ({ reply }) => findFault(reply.headers["cache-control"]),
        ),
      ],
      "RFC 9111 §5.2, §4.2.1",
    ),
    makeCase(
      `${path} has caching fields that agree`,
      question,
      [noContradiction, notTooOld],
      "RFC 9111 §5.3, §5.4, §5.1: old and new caches use different fields",
    ),
    ...(isLinked ? [] : [lifetime]),
    ...(kind === "document" ? [notStaleForLong(one)] : [forEverybody(one)]),
  ];
}

const noContradiction = demand("caching", "fields that agree", ({ reply: { headers } }) => {
  const { pragma = "", expires, date, "cache-control": control = "" } = headers;
  const maxAge = readSeconds(parseCacheControl(control).directives.get("max-age")) ?? 0;
  if (maxAge > 0 && /no-cache/i.test(pragma)) return `Pragma: ${pragma} beside Cache-Control: ${control}`;
  if (maxAge === 0 || expires === undefined) return undefined;
  const now = Date.now() / 1000;
  const until = parseHttpDate(expires, now);
  const from = parseHttpDate(date ?? "", now) ?? now;
  return until === undefined || until <= from
    ? `Expires: ${expires}${until === undefined ? ", which is no date," : ", which is past,"} beside Cache-Control: ${control}`
    : undefined;
});

// RFC 9111 §4.2.3, §4.2.4: a cache that hands out what is stale says so by its age.
const notTooOld = demand("Age", "no more than the lifetime of a copy", ({ reply: { headers } }) => {
  const age = readSeconds(headers.age);
  if (age === undefined) return undefined;
  const { directives } = parseCacheControl(headers["cache-control"] ?? "");
  const freshness = decideFreshness(headers);
  if (freshness.kind === "left to the cache") return undefined;
  const times = [
    freshness.kind === "explicit" ? freshness.seconds : 0,
    readSeconds(directives.get("s-maxage")) ?? 0,
    readSeconds(directives.get("stale-while-revalidate")) ?? 0,
    findTargetedLifetime(headers)?.seconds ?? 0,
  ];
  return age > Math.max(...times) + 3600
    ? `${age} seconds, of a copy that is ${describeFreshness(headers)}`
    : undefined;
});

function notStaleForLong({ path, question }: Sampled): Case {
  const look = demand(
    "stale-while-revalidate",
    "7 days at most, for a document",
    ({ reply: { headers } }) => {
      const control = headers["cache-control"] ?? "";
      const seconds = readSeconds(parseCacheControl(control).directives.get("stale-while-revalidate")) ?? 0;
      return seconds > 7 * 86_400 ? control : undefined;
    },
  );
  return makeCase(
    `${path} is not shown stale for long`,
    question,
    [look],
    "RFC 5861 §3: a rare visitor sees a page whose files are gone",
  );
}

// RFC 6265 §3, RFC 9111 §7.3: what everybody gets carries nothing of one visitor.
function forEverybody({ path, question, fingerprinted }: Sampled): Case {
  return makeCase(
    `${path} is the same for everybody`,
    question,
    [
      demand(
        "Set-Cookie",
        "no cookie: it is a file, not a visit",
        ({ reply }) => reply.headers["set-cookie"],
      ),
      demand("Vary", "no field of the visitor, for a name with a fingerprint", ({ reply: { headers } }) =>
        fingerprinted && /(?:^|,)\s*(?:\*|cookie|user-agent)\s*(?:,|$)/i.test(headers.vary ?? "")
          ? headers.vary
          : undefined,
      ),
    ],
    "shared caches keep no answer with a cookie, and one copy for each browser's name",
  );
}

function lookAtRedirect(path: string): Case {
  const look = demand("caching", "a redirect that is fresh for at most 30 days", ({ reply }) => {
    const freshness = decideFreshness(reply.headers);
    const isLong = freshness.kind === "explicit" && freshness.seconds > 30 * 86_400;
    return reply.status >= 300 && reply.status < 400 && isLong
      ? `a redirect that is ${describeFreshness(reply.headers)}`
      : undefined;
  });
  return makeCase(
    `${path}, a redirect, has no long lifetime`,
    get(path),
    [look],
    "RFC 9110 §15.4.2: browsers that followed it once go there for that long, whatever is there by then",
  );
}

function findFault(value: string | undefined): string | undefined {
  if (value === undefined) return undefined;
  const { directives, repeated, malformed } = parseCacheControl(value);
  if (malformed !== undefined) return `${value} (unreadable from "${malformed}" on)`;
  if (repeated.length > 0) return `${value} (${repeated[0]} is there twice)`;
  const bad = WITH_SECONDS.find(
    (name) => directives.has(name) && readSeconds(directives.get(name)) === undefined,
  );
  if (bad !== undefined) return `${value} (${bad} needs a number of seconds)`;
  if (directives.has("no-store") && (readSeconds(directives.get("max-age")) ?? 0) > 0)
    return `${value} (no-store and a lifetime)`;
  if (directives.get("no-cache") === true && directives.has("immutable"))
    return `${value} (no-cache and immutable)`;
  if (directives.has("private") && directives.has("public")) return `${value} (private and public)`;
  return undefined;
}
