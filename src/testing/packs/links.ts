import { extensionOf } from "../../reading/contents/kinds.js";
import { findReferences, findRelativeAddresses } from "../../reading/pages/references.js";
import { NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import { sameBytes } from "../checks/body.js";
import type { Check, Seen } from "../checks/check.js";
import { pageOf } from "../checks/content.js";
import { followRedirects, readRedirect } from "../checks/redirects.js";
import type { Mention } from "../discover/crawl.js";
import { kindOf } from "../discover/kind.js";
import type { Sample, Sampled } from "../discover/sample.js";
import { asAdvice, demand, get, makeCase, type Pack, skipCase, withFollowUps } from "./pack.js";

/** More of a file is not read to see that it is there, in bytes. */
const READ_AT_MOST = 2 * 1024 * 1024;
const FOLDERS_AT_MOST = 4;

/** What pages, style sheets, scripts and manifests name is there; folders lead to their slash. */
export const links: Pack = (sample) => {
  const { mentions, leftOut } = sample.links;
  const folders = sample.directories.filter((path) => path !== "/").slice(0, FOLDERS_AT_MOST);
  return [
    ...mentions.map(lookAt),
    ...(mentions.length === 0
      ? [skipCase("links", "no page of the site links to another address of it")]
      : []),
    ...(leftOut > 0
      ? [
          skipCase(
            "more links",
            `${leftOut} further addresses were found but not asked for; check a part of the site with --against URL/PART/`,
          ),
        ]
      : []),
    ...folders.flatMap((path) => lookAtFolder(path, sample)),
  ];
};

function lookAt({ from, to, written, by }: Mention): Case {
  const isPage = /^(?:a|area|iframe|Location)$/.test(by);
  const question = { ...get(to, isPage ? { ...NAVIGATION } : { Accept: "*/*" }), readAtMost: READ_AT_MOST };
  const checks = [isThere(by, to)];
  const asked = makeCase(
    `${to}, which ${from} names (${by}${written === to ? "" : ` ${JSON.stringify(written.slice(0, 80))}`})`,
    question,
    checks,
    "visitors notice a broken link at once, its author rarely does",
  );
  return withFollowUps(asked, [followRedirects(checks)]);
}

/** What loads a file that is no page. */
const LOADS = /^(?:img|script|source|audio|video|track|embed|url\(\)|import|a manifest|the field Link)$/;

function isThere(by: string, to: string): Check {
  return demand("answer", "200, or a redirect to it", (seen) => {
    const { reply } = seen;
    const target = readRedirect(seen);
    if (target !== undefined) return describeBadTarget(target);
    if (reply.status === 401) return undefined;
    if (reply.status >= 300) return String(reply.status);
    if (reply.body.length === 0 && !reply.isCut && extensionOf(to) === "")
      return `${reply.status}, with an empty body: a blank page`;
    const isPage = LOADS.test(by) && kindOf(reply) === "document";
    return isPage ? `${reply.status} with a page of HTML, instead of what ${by} needs` : undefined;
  });
}

function describeBadTarget(target: NonNullable<ReturnType<typeof readRedirect>>): string | undefined {
  if (target.kind === "nowhere") return "a redirect without a Location";
  if (target.kind === "unreadable") return `a redirect to an address that cannot be read: ${target.location}`;
  // A whole address may well lead to another site; two slashes at the start are rarely meant to.
  return target.kind === "other site" && /^[/\\]{2}/.test(target.location)
    ? `a redirect off the site, by two slashes: ${target.location}`
    : undefined;
}

const QUERY = "season=autumn";

function lookAtFolder(path: string, sample: Sample): Case[] {
  const bare = path.slice(0, -1);
  const question = get(`${bare}?${QUERY}`, { ...NAVIGATION });
  const page = sample.resources.find((one) => one.path === path);
  const why = "RFC 3986 §5.2: without the slash, a relative link on the page points into the folder above";
  return [
    withFollowUps(
      makeCase(`${bare}, without its slash, redirects to ${path}`, question, [leadsToSlash(path, page)], why),
      [followRedirects([])],
    ),
    asAdvice(
      makeCase(
        `${bare}, without its slash, is found`,
        question,
        [
          demand("status", "a redirect to the slash", ({ reply }) =>
            reply.status === 404 ? "404" : undefined,
          ),
        ],
        "people do not type the slash",
      ),
      "Redirect folders without their slash to the address with it: people do not type the slash.",
    ),
  ];
}

function leadsToSlash(path: string, page: Sampled | undefined): Check {
  return demand("redirect", `301 or 308, to ${path}?${QUERY} on this host`, (seen) => {
    const { reply } = seen;
    const target = readRedirect(seen);
    if (target === undefined) return findLostPlace(seen, page);
    if (target.kind === "nowhere") return `${reply.status} without a Location`;
    if (target.kind === "unreadable") return `an address that cannot be read: ${target.location}`;
    if (target.kind === "other site") return describeOtherPlace(target.url, target.location, seen);
    if (target.path === path) return `${target.location}, without the query`;
    if (target.path !== `${path}?${QUERY}`) return target.location;
    return [301, 308].includes(reply.status)
      ? undefined
      : `${reply.status}, a temporary redirect: browsers ask again each visit`;
  });
}

function describeOtherPlace(url: URL, location: string, { address }: Seen): string {
  const own = new URL(address);
  if (url.hostname !== own.hostname) return `another host: ${location}`;
  if (url.protocol !== own.protocol)
    return `another scheme (${url.protocol}) than the request's: ${location}`;
  return url.port === own.port ? location : `another port: ${location}`;
}

// The same page at both addresses is fine while it names nothing relative.
function findLostPlace({ reply, question, address }: Seen, page: Sampled | undefined): string | undefined {
  if (reply.status !== 200 || page === undefined || !sameBytes(reply.body, page.reply.body)) return undefined;
  const content = pageOf(reply);
  const relative = findReferences(content, address + question.path).filter(
    ({ written }) => !/^(?:[/#?]|[a-z][a-z0-9+.-]*:)/i.test(written),
  );
  const [first] = content.elements.some(({ name }) => name === "base")
    ? []
    : [...relative.map(({ written }) => written), ...findRelativeAddresses(content)];
  return first === undefined
    ? undefined
    : `the page itself at ${question.path.replace(/\?.*/, "")}, whose relative link ${JSON.stringify(first)} means another place there`;
}
