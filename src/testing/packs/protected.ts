import { createHash } from "node:crypto";
import type { Directive } from "../../core/rules/protect.js";
import { extractWorkers } from "../../reading/links.js";
import { findContents, listTexts, toNeeds } from "../../reading/pages/needs.js";
import type { Reply } from "../ask/ask.js";
import { NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { Check, Seen } from "../checks/check.js";
import { pageOf, readText } from "../checks/content.js";
import { toPath } from "../discover/crawl.js";
import type { Sampled } from "../discover/sample.js";
import { again, asAdvice, demand, makeCase, type Pack, skipCase } from "./pack.js";

const PAGES_AT_MOST = 12;

/** Pages are sent with a policy that stops what was smuggled in, and does not stop the page; and with the other protective fields. */
export const protectedPages: Pack = ({ resources, missingPath, address }) => {
  const pages = resources.filter(({ kind }) => kind === "document").slice(0, PAGES_AT_MOST);
  if (pages.length === 0) return [skipCase("protected pages", "no page was found")];
  const havePolicy = pages.every(({ reply }) => readPolicies(reply).length > 0);
  return [
    ...pages.flatMap(lookAt),
    ...lookAtMissing(missingPath, havePolicy),
    ...lookAtWorkers(resources, address),
  ];
};

const ADVICE = {
  policy: "Send pages with a policy: it protects visitors if a page shows what a stranger wrote.",
  transport:
    "Strict-Transport-Security counts only over https: (RFC 6797 §7.2); leave it out over http:, unless a proxy adds the TLS.",
  framing:
    "Say who may show your pages in a frame: another site could hide your page under its own, and steal clicks.",
  referrer: "Set a Referrer-Policy: it limits what other sites learn about your addresses.",
};

function lookAt(page: Sampled): Case[] {
  const ask = (what: string, checks: readonly Check[]): Case =>
    makeCase(`${page.path} ${what}`, again(page, { ...NAVIGATION }), checks, "CSP3 §1.1; RFC 6797 §7.2");
  return [
    ask("works under its policy", [coversPage]),
    asAdvice(ask("says nothing of TLS over http:", [saysTransport]), ADVICE.transport),
    asAdvice(
      ask("has a policy", [hasPolicy, stopsInline, limits("object-src"), limits("base-uri")]),
      ADVICE.policy,
    ),
    asAdvice(ask("cannot be framed by other sites", [limitsFraming]), ADVICE.framing),
    asAdvice(ask("does not reveal its address to other sites", [saysReferrer]), ADVICE.referrer),
  ];
}

// An error's page shows the address at times, and is the first thing that is tried.
function lookAtMissing(path: string, havePolicy: boolean): Case[] {
  const ofPage = (check: Check): Check => ({
    ...check,
    look: (seen) => (/html/.test(seen.reply.headers["content-type"] ?? "") ? check.look(seen) : undefined),
  });
  const ask = (what: string, checks: readonly Check[]): Case =>
    makeCase(
      `the page for missing addresses, ${path}, ${what}`,
      { method: "GET", path, headers: { ...NAVIGATION } },
      checks.map(ofPage),
      "CSP3 §1.1",
    );
  const has = ask("has a policy", [hasPolicy, stopsInline]);
  return [
    ask("works under its policy", [coversPage]),
    // Where every page has one, this one was forgotten.
    havePolicy ? has : asAdvice(has, ADVICE.policy),
  ];
}

const ISOLATION = "cross-origin-embedder-policy";

// HTML §7.1.4: a worker of an isolated page is only started if its script says the same.
function lookAtWorkers(resources: readonly Sampled[], address: string): Case[] {
  const isolated = resources.some(
    ({ kind, reply }) => kind === "document" && reply.headers[ISOLATION] !== undefined,
  );
  if (!isolated) return [];
  const paths = resources.flatMap(({ path, kind, reply }) => {
    if (kind !== "document" && kind !== "script") return [];
    const content = readText(reply);
    const text = content.ok ? (content.text ?? "") : "";
    return extractWorkers(text).flatMap((written) => {
      const base = `${address}${path}`;
      const to = URL.canParse(written, base) ? toPath(new URL(written, base).href, address) : undefined;
      return to === undefined ? [] : [to];
    });
  });
  const check = demand("Cross-Origin-Embedder-Policy", "require-corp or credentialless", ({ reply }) => {
    const value = reply.headers[ISOLATION];
    return /^(?:require-corp|credentialless)\b/.test(value ?? "") ? undefined : (value ?? "nothing");
  });
  return [...new Set(paths)].map((path) =>
    makeCase(
      `${path}, a worker of an isolated page, can be started`,
      { method: "GET", path, headers: { Accept: "*/*", "Sec-Fetch-Dest": "worker" } },
      [check],
      "HTML §7.1.4: browsers block a worker whose script lacks the field that its page has",
    ),
  );
}

type Policy = ReadonlyMap<string, readonly string[]>;

/** CSP3 §2.2.1: directives between semicolons; of two of one name the first counts. Several policies all hold. */
function readPolicies({ headers }: Reply): Policy[] {
  return (headers["content-security-policy"] ?? "")
    .split(",")
    .filter((text) => text.trim() !== "")
    .map((text) => {
      const policy = new Map<string, readonly string[]>();
      for (const directive of text.split(";")) {
        const [name, ...sources] = directive.trim().split(/\s+/);
        if (name !== undefined && name !== "" && !policy.has(name.toLowerCase()))
          policy.set(name.toLowerCase(), sources);
      }
      return policy;
    });
}

const sourcesOf = (policy: Policy, name: string): readonly string[] | undefined =>
  policy.get(name) ?? (name === "base-uri" || name === "form-action" ? undefined : policy.get("default-src"));

const hasPolicy = demand("Content-Security-Policy", "a policy that is enforced", ({ reply }) => {
  if (readPolicies(reply).length > 0) return undefined;
  return reply.headers["content-security-policy-report-only"] === undefined
    ? "nothing"
    : "one that only reports";
});

const WEAK = /^(?:'unsafe-inline'|'unsafe-eval'|\*|data:|https?:)$/i;

const stopsInline = demand(
  "script-src",
  "a list without 'unsafe-inline', 'unsafe-eval', * and whole schemes",
  ({ reply }) => {
    const policies = readPolicies(reply);
    if (policies.length === 0) return undefined;
    const weak = policies.map((policy) => {
      const sources = sourcesOf(policy, "script-src");
      if (sources === undefined) return "no script-src and no default-src";
      // CSP3 §6.7.3.2: beside a digest or a nonce, 'unsafe-inline' counts for old browsers alone.
      const isExact = sources.some((one) => /^'(?:sha\d+-|nonce-)/i.test(one));
      return sources.find((one) => WEAK.test(one) && !(isExact && /unsafe-inline/i.test(one)));
    });
    return weak.every((one) => one !== undefined) ? weak[0] : undefined;
  },
);

const limits = (name: Directive): Check =>
  demand(name, "a list, or 'none'", ({ reply }) => {
    const policies = readPolicies(reply);
    if (policies.length === 0) return undefined;
    const lists = policies.map((policy) => sourcesOf(policy, name));
    return lists.some((list) => list !== undefined && !list.includes("*"))
      ? undefined
      : "anything is allowed";
  });

const limitsFraming = demand("framing", "frame-ancestors of the policy, or X-Frame-Options", ({ reply }) => {
  const lists = readPolicies(reply).map((policy) => policy.get("frame-ancestors"));
  return lists.some((list) => list !== undefined) || reply.headers["x-frame-options"] !== undefined
    ? undefined
    : "any site may show it in a frame";
});

const saysReferrer = demand(
  "Referrer-Policy",
  "one that tells other sites no more than the origin",
  ({ reply }) => {
    const value = reply.headers["referrer-policy"]?.split(",").at(-1)?.trim().toLowerCase();
    if (value === undefined) return "nothing";
    return /^(?:unsafe-url|no-referrer-when-downgrade)$/.test(value) ? value : undefined;
  },
);

const saysTransport = demand(
  "Strict-Transport-Security",
  "nothing over http:",
  ({ reply, address }: Seen) => {
    const value = reply.headers["strict-transport-security"];
    return value !== undefined && address.startsWith("http:")
      ? `${value}, which RFC 6797 §7.2 forbids there`
      : undefined;
  },
);

/** A page whose own scripts are stopped was never looked at in a browser. */
const coversPage: Check = {
  about: "the page under its policy",
  expected: "a policy that allows what the page contains and names",
  look({ reply }) {
    const policies = readPolicies(reply);
    if (policies.length === 0) return undefined;
    const page = findContents(pageOf(reply));
    const { sources, problems } = toNeeds(page, new Map(listTexts(page).map((one) => [one, digest(one)])));
    for (const [name, needed] of sources)
      for (const one of needed)
        if (!policies.every((policy) => allows(sourcesOf(policy, name), one)))
          return { text: `${name} does not allow ${one}, which the page contains or names` };
    return problems.length === 0 ? undefined : { text: problems[0]! };
  },
};

const digest = (text: string): string => `'sha256-${createHash("sha256").update(text).digest("base64")}'`;

function allows(list: readonly string[] | undefined, needed: string): boolean {
  if (list === undefined || list.includes(needed) || list.includes("*")) return true;
  if (/^'(?:sha256-|unsafe-hashes)/.test(needed))
    return (
      list.some((one) => /^'unsafe-inline'$/i.test(one)) ||
      list.some((one) => /^'nonce-/.test(one)) ||
      (needed === "'unsafe-hashes'" && list.some((one) => /^'sha/.test(one)))
    );
  const host = /^(?:https?:\/\/)?([^/]+)/.exec(needed)?.[1] ?? needed;
  return list.some((one) => {
    if (/^https?:$/.test(one)) return !/^http:\/\//.test(needed) || one === "http:";
    const own = /^(?:https?:\/\/)?([^/]+)/.exec(one)?.[1] ?? one;
    return own === host || (own.startsWith("*.") && host.endsWith(own.slice(1)));
  });
}
