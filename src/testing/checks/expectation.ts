import { resolve } from "node:path";
import type { Expectation } from "../format/expectation-types.js";
import { parseShortTime } from "../format/schema-texts.js";
import { NO_FILE, THE_APPLICATION } from "./answerers.js";
import { checkBody } from "./body-checks.js";
import { checkCaching } from "./caching.js";
import type { Check, Seen } from "./check.js";
import { listCodings, readCharset, readMediaType } from "./content.js";
import { checkCookies } from "./cookies.js";
import { checkField, compareValue } from "./field.js";
import { checkParts } from "./parts.js";

/** Makes the checks of an expectation, in the order of the format. `folder` is where files that it names are looked for. */
export function compileExpectation(expect: Expectation, folder: string): Check[] {
  const checks: Check[] = [];
  if (expect.status !== undefined) checks.push(checkStatus([expect.status].flat()));
  if (expect.redirect !== undefined)
    checks.push(...checkRedirect(expect.redirect, expect.status === undefined));
  if (expect.answeredBy !== undefined) checks.push(checkAnsweredBy(expect.answeredBy));
  if (expect.mediaType !== undefined) {
    const wanted = expect.mediaType;
    checks.push(
      compareValue("media type", wanted.toLowerCase(), ({ reply }) => readMediaType(reply.headers)),
    );
  }
  if (expect.charset !== undefined) {
    checks.push(
      compareValue("charset", expect.charset.toLowerCase(), ({ reply }) =>
        readCharset(reply.headers)?.toLowerCase(),
      ),
    );
  }
  if (expect.coding !== undefined) checks.push(checkCoding([expect.coding].flat()));
  checks.push(...checkCaching([expect.caching ?? []].flat()));
  for (const [name, wanted] of Object.entries(expect.headers ?? {})) checks.push(...checkField(name, wanted));
  if (expect.cookies !== undefined) checks.push(...checkCookies(expect.cookies));
  if (expect.httpVersion !== undefined) checks.push(checkVersion(expect.httpVersion));
  if (expect.firstByte !== undefined) checks.push(checkFirstByte(expect.firstByte.atMost));
  if (expect.body !== undefined) checks.push(...checkBody(expect.body, (name) => resolve(folder, name)));
  if (expect.parts !== undefined) checks.push(...checkParts(expect.parts));
  return checks;
}

/** Demands one of some statuses, or of some classes such as `2xx`. */
export function checkStatus(wanted: readonly (number | string)[]): Check {
  return {
    about: "status",
    expected: wanted.join(" or "),
    look({ reply }) {
      const isWanted =
        wanted.includes(reply.status) || wanted.includes(`${Math.floor(reply.status / 100)}xx`);
      return isWanted ? undefined : { text: describeStatus(reply) };
    },
  };
}

function checkVersion(wanted: string): Check {
  return {
    about: "HTTP version",
    expected: wanted,
    wireOnly: true,
    look: ({ reply }) =>
      reply.wire?.httpVersion === wanted ? undefined : { text: reply.wire?.httpVersion ?? "not known" },
  };
}

function checkFirstByte(written: string | number): Check {
  const atMost = parseShortTime(written)!;
  return {
    about: "first byte",
    expected: `within ${written}`,
    wireOnly: true,
    look({ reply }) {
      const milliseconds = reply.wire?.firstByteMilliseconds ?? 0;
      return milliseconds <= atMost ? undefined : { text: `after ${Math.round(milliseconds)}ms` };
    },
  };
}

function describeStatus({ status, inside, headers }: Seen["reply"]): string {
  if (inside?.passedOn) return `${status}, which the application behind the site would answer`;
  const location = headers.location;
  return location === undefined ? String(status) : `${status}, to ${location}`;
}

// RFC 9110 §10.2.2: Location may be relative; it is resolved against the address that was asked.
function checkRedirect(to: string, alsoStatus: boolean): Check[] {
  const absolute = ({ question, address }: Seen, location: string): URL | undefined => {
    const base = address + question.path;
    return URL.canParse(location, base) ? new URL(location, base) : undefined;
  };
  const target: Check = {
    about: "redirect",
    expected: to,
    look(seen) {
      const { location } = seen.reply.headers;
      if (location === undefined) return { text: `${seen.reply.status} without a Location` };
      const got = absolute(seen, location);
      // A path in the expectation begins where the site does, which may itself be under a prefix.
      const wanted = to.startsWith("/") ? new URL(seen.address + to) : absolute(seen, to);
      if (got?.href === wanted?.href) return undefined;
      const shown = got === undefined ? location : shortenAddress(got.href, seen.address);
      return {
        text: shown === location ? location : `${shown} (Location: ${location})`,
        comparable: shown === location,
      };
    },
  };
  const status: Check = {
    about: "status",
    expected: "a redirect (301, 302, 303, 307 or 308)",
    look: ({ reply }) =>
      [301, 302, 303, 307, 308].includes(reply.status) ? undefined : { text: describeStatus(reply) },
  };
  return alsoStatus ? [status, target] : [target];
}

function shortenAddress(href: string, address: string): string {
  return href.startsWith(`${address}/`) ? href.slice(address.length) : href;
}

function checkAnsweredBy(wanted: string): Check {
  return {
    about: "answered by",
    expected: wanted,
    insideOnly: true,
    look({ reply }) {
      const { file, passedOn } = reply.inside!;
      const got = passedOn ? THE_APPLICATION : (file ?? NO_FILE);
      return got === wanted ? undefined : { text: got, comparable: true };
    },
  };
}

/** Demands one of some content codings; `none` for the bytes as they are. */
export function checkCoding(wanted: readonly string[]): Check {
  return {
    about: "coding",
    expected: wanted.join(" or "),
    look({ reply }) {
      const got = listCodings(reply.headers).join(", ") || "none";
      return wanted.includes(got) ? undefined : { text: got, comparable: wanted.length === 1 };
    },
  };
}
