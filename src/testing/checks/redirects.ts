import type { Check, Seen } from "./check.js";
import type { FollowUp } from "./follow-ups.js";

/** RFC 9110 §15.4: the statuses that lead on. */
export const REDIRECTS: readonly number[] = [301, 302, 303, 307, 308];

/** Where a redirect leads. */
export type Target =
  | { readonly kind: "nowhere" }
  /** No address can be read from it. */
  | { readonly kind: "unreadable"; readonly location: string }
  | { readonly kind: "other site"; readonly location: string; readonly url: URL }
  /** A target of this site, behind the base address. */
  | { readonly kind: "here"; readonly location: string; readonly path: string };

/** Where an answer leads: undefined for one that is no redirect. RFC 9110 §10.2.2: Location may be relative. */
export function readRedirect({ question, reply, address }: Seen): Target | undefined {
  if (!REDIRECTS.includes(reply.status)) return undefined;
  const { location } = reply.headers;
  if (location === undefined) return { kind: "nowhere" };
  // Browsers resolve the path as sent: two slashes at its start are part of it, and not a host.
  const base = new URL(address);
  const from = question.path.startsWith("/")
    ? base.origin + base.pathname.replace(/\/$/, "") + question.path
    : address;
  if (!URL.canParse(location, from)) return { kind: "unreadable", location };
  const url = new URL(location, from);
  url.hash = "";
  if (url.href !== address && !url.href.startsWith(`${address}/`))
    return { kind: "other site", location, url };
  return { kind: "here", location, path: url.href.slice(address.length) || "/" };
}

/** How many redirects are followed: browsers stop a little later (Fetch §4.4 takes 20). */
export const STEPS_AT_MOST = 5;

/**
 * Follows the redirects of an answer within the site, and puts the checks to each further answer. It fails for a loop and for a
 * way that is too long. Redirects to other sites are left alone.
 */
export function followRedirects(
  checks: readonly Check[],
  {
    atMost = STEPS_AT_MOST,
    passed = [],
  }: { readonly atMost?: number; readonly passed?: readonly string[] } = {},
): FollowUp {
  return {
    name: "redirect",
    plan(first) {
      const target = readRedirect(first);
      if (target?.kind !== "here") return [];
      const way = [...passed, first.question.path];
      const shown = [...way, target.path].join(" → ");
      if (way.includes(target.path))
        return {
          expected: "a redirect that ends somewhere",
          problem: `one that redirects to itself: ${shown}`,
        };
      if (way.length > atMost)
        return {
          expected:
            atMost === 0 ? "no redirect" : `at most ${atMost} ${atMost === 1 ? "redirect" : "redirects"}`,
          problem: `${way.length}: ${shown}`,
        };
      const question = { ...first.question, path: target.path };
      const further = [followRedirects(checks, { atMost, passed: way })];
      return [{ name: `led on to ${target.path}`, question, checks, followUps: further }];
    },
  };
}
