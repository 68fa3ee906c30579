import { resolve } from "node:path";
import { splitMembers } from "../../core/fields/grammar.js";
import type { Expectation, HeaderExpectation } from "../format/schema.js";
import { NO_FILE, THE_APPLICATION } from "./answerers.js";
import { checkBody } from "./body.js";
import { checkCaching } from "./caching.js";
import type { Check, Got, Seen } from "./check.js";
import { listCodings, readCharset, readMediaType } from "./content.js";
import { holdAgainst, TOOK_TOO_LONG } from "./pattern.js";

const NOTHING = "nothing";

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
  if (expect.body !== undefined) checks.push(...checkBody(expect.body, (name) => resolve(folder, name)));
  return checks;
}

/** Demands one of some statuses. */
export function checkStatus(wanted: readonly number[]): Check {
  return {
    about: "status",
    expected: wanted.join(" or "),
    look({ reply }) {
      return wanted.includes(reply.status) ? undefined : { text: describeStatus(reply) };
    },
  };
}

function describeStatus({ status, inside, headers }: Seen["reply"]): string {
  if (inside?.passedOn) return `${status}, which the application behind the site would give`;
  const location = headers.location;
  return location === undefined ? String(status) : `${status}, to ${location}`;
}

/** Demands that a value is this one. */
export function compareValue(
  about: string,
  expected: string,
  read: (seen: Seen) => string | undefined,
): Check {
  return {
    about,
    expected,
    look(seen) {
      const got = read(seen);
      if (got === expected) return undefined;
      return got === undefined ? { text: NOTHING } : { text: got, comparable: true };
    },
  };
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

/** The checks of one header field. */
export function checkField(name: string, wanted: HeaderExpectation): Check[] {
  const key = name.toLowerCase();
  const read = ({ reply }: Seen): string | undefined => reply.headers[key];
  if (typeof wanted === "string") return [compareValue(name, wanted, read)];
  const check = (expected: string, holds: (got: string | undefined) => boolean): Check => ({
    about: name,
    expected,
    look(seen) {
      const got = read(seen);
      return holds(got) ? undefined : ({ text: got ?? NOTHING } satisfies Got);
    },
  });
  const checks: Check[] = [];
  if (wanted.present !== undefined) {
    const { present } = wanted;
    checks.push(check(present ? "any value" : NOTHING, (got) => (got !== undefined) === present));
  }
  if (wanted.matches !== undefined) checks.push(checkMatch(name, new RegExp(wanted.matches, "u")));
  for (const member of [wanted.lists ?? []].flat())
    checks.push(check(`a list with ${member}`, (got) => hasMember(got, member)));
  for (const member of [wanted.listsNot ?? []].flat())
    checks.push(check(`a list without ${member}`, (got) => !hasMember(got, member)));
  return checks;
}

/** The check of a header field by a pattern, with its flags; a search always begins at the start. */
export function checkMatch(name: string, written: RegExp): Check {
  const pattern = new RegExp(written.source, written.flags.replace(/[gy]/g, ""));
  const flags = pattern.flags.replace("u", "");
  return {
    about: name,
    // As it was written: the platform escapes slashes that need none here.
    expected: `a match of /${pattern.source.replaceAll("\\/", "/")}/${flags}`,
    look({ reply }) {
      const got = reply.headers[name.toLowerCase()];
      if (got === undefined) return { text: NOTHING };
      const outcome = holdAgainst(pattern, got);
      if (outcome === "matches") return undefined;
      return { text: outcome === "takes too long" ? TOOK_TOO_LONG : got };
    },
  };
}

// Case is ignored, as most lists do.
function hasMember(value: string | undefined, member: string): boolean {
  return splitMembers(value ?? "", ",").some((one) => one.toLowerCase() === member.toLowerCase());
}
