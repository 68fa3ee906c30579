import { parseCacheControl } from "../../core/fields/cache-control.js";
import { NAVIGATION } from "../ask/ask.js";
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
  ...sample.shells.flatMap(({ links }) => links.map(lookAtShell)),
  makeCase(
    "an address that nothing is at is not remembered for long",
    get(sample.missingPath, { Accept: "*/*" }),
    [
      demand("caching", "fresh for at most 1 hour", ({ reply }) => {
        const freshness = decideFreshness(reply.headers);
        return freshness.kind === "explicit" && freshness.seconds > 3600
          ? describeFreshness(reply.headers)
          : undefined;
      }),
    ],
    "RFC 9110 §15.5.5: caches keep a 404 too, and go on missing what is put there",
  ),
];

function lookAtShell(link: string): ReturnType<Pack>[number] {
  return makeCase(
    `${link}, if an application answers there, is kept for long by no network`,
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
    "RFC 9213: what a network is told goes before Cache-Control, and every deep link is a copy of its own",
  );
}

function lookAt(one: Sampled): ReturnType<Pack> {
  const { path, question, kind, fingerprinted } = one;
  const put = (what: string, phrase: string, reason: string) =>
    makeCase(`${path} ${what}`, question, checkCaching([phrase]), reason);
  const lifetime =
    kind === "document"
      ? put(
          "is a document: it is not kept for long",
          "fresh for at most 1 hour",
          "a document names the files that belong to it; an old copy names old ones",
        )
      : fingerprinted
        ? put(
            "has a fingerprint in its name: it is kept for long",
            "fresh for at least 30 days",
            "other content has another name, so asking again is of no use",
          )
        : put(
            "has no fingerprint in its name: it is not kept for long",
            "fresh for at most 1 day",
            "when its content changes, visitors go on with the old one",
          );
  return [
    makeCase(
      `${path} says how long a copy is good`,
      question,
      [
        demand("caching", "Cache-Control with max-age, no-cache or no-store; or Expires", ({ reply }) =>
          decideFreshness(reply.headers).kind === "left to the cache"
            ? describeFreshness(reply.headers)
            : undefined,
        ),
      ],
      "RFC 9111 §4.2.2: where nothing is said, each cache guesses",
    ),
    makeCase(
      `${path} has a Cache-Control that can be read`,
      question,
      [
        demand("Cache-Control", "directives between commas, each once, none against another", ({ reply }) =>
          findFault(reply.headers["cache-control"]),
        ),
      ],
      "RFC 9111 §5.2, §4.2.1",
    ),
    lifetime,
  ];
}

function findFault(value: string | undefined): string | undefined {
  if (value === undefined) return undefined;
  const { directives, repeated, malformed } = parseCacheControl(value);
  if (malformed !== undefined) return `${value} (unreadable from "${malformed}" on)`;
  if (repeated.length > 0) return `${value} (${repeated[0]} stands twice)`;
  const bad = WITH_SECONDS.find(
    (name) => directives.has(name) && readSeconds(directives.get(name)) === undefined,
  );
  if (bad !== undefined) return `${value} (${bad} needs a number of seconds)`;
  if (directives.has("no-store") && (readSeconds(directives.get("max-age")) ?? 0) > 0)
    return `${value} (no-store and a time to keep it)`;
  if (directives.has("private") && directives.has("public")) return `${value} (private and public)`;
  return undefined;
}
