import { parseCacheControl } from "../../core/fields/cache-control.js";
import { formatFieldName } from "../../core/fields/grammar.js";
import { titleOf } from "../../reading/pages/page.js";
import type { Reply } from "../ask/ask.js";
import { THE_APPLICATION } from "../checks/answerers.js";
import { listCodings, pageOf, readCharset, readMediaType, readText } from "../checks/content.js";
import { decideFreshness, speakFreshness } from "../checks/freshness.js";
import { kindOf } from "../discover/kind.js";
import type { Expectation } from "../format/expectation-types.js";
import { nameOf } from "./names.js";
import type { Observed } from "./observed.js";

/** Fields that stay the same from one build to the next, and that people rely on: kept as they are. */
const KEPT = ["x-content-type-options", "content-disposition", "access-control-allow-origin", "allow"];

/** What a type looks like: recordings have other words for one that is not known. */
const IS_TYPE = /^[^\s/;]+\/[^\s/;]+$/;

/** What can be expected of an answer from now on: what changes with each build, day or request is left out. */
export function describeObserved({ group, question, reply, coding, each, address }: Observed): Expectation {
  const { status, headers, inside } = reply;
  // That it is refused is what counts; how the refusal looks is said elsewhere.
  if (group === "what must never be served") return { status };
  const expect: Expectation = { status };
  const { location } = headers;
  const isRedirect = status >= 300 && status < 400 && location !== undefined && !/\s/.test(location);
  if (isRedirect) expect.redirect = resolveLocation(location, address, question.path);
  const answeredBy = inside?.passedOn ? THE_APPLICATION : inside?.file;
  if (answeredBy !== undefined && !isRedirect && each === undefined) expect.answeredBy = answeredBy;
  const mediaType = readMediaType(headers);
  if (mediaType !== undefined && IS_TYPE.test(mediaType) && !isRedirect) expect.mediaType = mediaType;
  const charset = readCharset(headers);
  if (charset !== undefined && !isRedirect) expect.charset = charset.toLowerCase();
  if (status === 200) {
    const caching = describeCaching(headers);
    if (caching.length > 0) expect.caching = caching.length === 1 ? caching[0]! : caching;
    if (question.headers["Accept-Encoding"] !== undefined && each === undefined)
      expect.coding = coding ?? (listCodings(headers).join(", ") || "none");
  }
  // What names the host that was asked is another value elsewhere.
  const { host } = new URL(address);
  // Neither is a name that lasts for one build.
  const own = each === undefined ? undefined : nameOf(question.path);
  const kept = KEPT.flatMap((name) =>
    headers[name] === undefined ||
    headers[name].includes(host) ||
    (own !== undefined && headers[name].includes(own))
      ? []
      : [[formatFieldName(name), headers[name]]],
  );
  if (kept.length > 0) expect.headers = Object.fromEntries(kept);
  const title = question.method === "HEAD" ? undefined : findTitle(reply);
  if (title !== undefined) expect.body = { contains: title };
  return expect;
}

function describeCaching(headers: Readonly<Record<string, string>>): string[] {
  const freshness = decideFreshness(headers);
  // That nothing is said is nothing to rely on.
  if (freshness.kind === "left to the cache") return [];
  // A date that Expires counts from makes another time of each answer.
  if (headers["cache-control"] === undefined && freshness.kind === "explicit" && freshness.seconds > 0)
    return [];
  const { directives } = parseCacheControl(headers["cache-control"] ?? "");
  return [speakFreshness(freshness), ...["immutable", "private"].filter((name) => directives.has(name))];
}

// An address of the site itself is written as the path under its base address; that is what a reader can follow.
function resolveLocation(location: string, address: string, path: string): string {
  if (!URL.canParse(location, address + path)) return location;
  const { href } = new URL(location, address + path);
  return href.startsWith(`${address}/`) ? href.slice(address.length) : href;
}

function findTitle(reply: Reply): string | undefined {
  if (kindOf(reply) !== "document") return undefined;
  const { text } = readText(reply) as { text?: string };
  if (text === undefined) return undefined;
  const written = titleOf(pageOf(reply)).trim();
  // Written with escapes, or over several lines, it would not be found in the text again.
  return written !== "" && !/\n/.test(written) && text.includes(written) ? written : undefined;
}
