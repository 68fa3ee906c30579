import type { SiteMoved } from "../../site/site.js";
import { NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { Check, Seen } from "../checks/check.js";
import type { FollowUp } from "../checks/follow-ups.js";
import { readRedirect } from "../checks/redirects.js";
import { demand, get, makeCase, type Pack, skipCase, withFollowUps } from "./pack.js";

const RULES_AT_MOST = 500;
const NAME = "no-such-name-4f1d";
const QUERY = "season=autumn";

/** Old addresses lead to new ones that answer, at once; what is gone says so. The rules are those of the site's configuration. */
export const moved: Pack = ({ moved: rules }) => {
  if (rules === undefined)
    return [skipCase("moved addresses", "only a configuration says what moved; a server does not")];
  if (rules.length === 0) return [skipCase("moved addresses", "the configuration names none")];
  const left = rules.length - RULES_AT_MOST;
  return [
    ...rules.slice(0, RULES_AT_MOST).map((rule) => (rule.to === undefined ? lookAtGone(rule) : lookAt(rule))),
    ...(left > 0 ? [skipCase("more moved addresses", `${left} further rules were not looked at`)] : []),
  ];
};

// Of a folder, an address that lies below it.
const oldOf = ({ from }: SiteMoved): string => (from.endsWith("/") ? from + NAME : from);

function lookAtGone(rule: SiteMoved): Case {
  const is410 = demand("status", "410", ({ reply }) =>
    reply.status === 410 ? undefined : String(reply.status),
  );
  return makeCase(
    `${oldOf(rule)} is gone`,
    get(oldOf(rule), { ...NAVIGATION }),
    [is410],
    "RFC 9110 §15.5.11: search engines forget a gone address sooner than a missing one",
  );
}

function lookAt(rule: SiteMoved): Case {
  const isFolder = rule.from.endsWith("/");
  const wanted = isFolder ? rule.to + NAME : rule.to!;
  const asked = makeCase(
    `${oldOf(rule)} leads to ${wanted}`,
    get(`${oldOf(rule)}?${QUERY}`, { ...NAVIGATION }),
    [leadsTo(rule, wanted)],
    "links and bookmarks live longer than addresses",
  );
  // Nothing needs to be below a folder; a single address must lead to something.
  return isFolder ? asked : withFollowUps(asked, [answersThere]);
}

function leadsTo({ keepsQuery, temporary }: SiteMoved, wanted: string): Check {
  const right = temporary ? [302, 307] : [301, 308];
  return demand("redirect", `${right.join(" or ")}, to ${wanted}`, (seen) => {
    const { status } = seen.reply;
    const target = readRedirect(seen);
    if (target === undefined) return String(status);
    if (target.kind === "nowhere" || target.kind === "unreadable") return `${status} to an invalid address`;
    const found = target.kind === "here" ? target.path : target.url.href;
    if (!right.includes(status)) return `${status} to ${found}`;
    const expected = keepsQuery ? addQuery(wanted) : wanted;
    return found === expected.replace(/#.*/s, "") ? undefined : `${status} to ${found}`;
  });
}

const addQuery = (address: string): string => {
  const [, path, fragment] = /^([^#]*)(.*)$/s.exec(address)!;
  return `${path}?${QUERY}${fragment}`;
};

const answersThere: FollowUp = {
  name: "the new address",
  plan(first: Seen) {
    const target = readRedirect(first);
    if (target?.kind !== "here") return [];
    const answers = demand("answer", "a success, at once", ({ reply }) =>
      reply.status < 300 ? undefined : String(reply.status),
    );
    return [
      {
        name: `led on to ${target.path}`,
        question: { ...first.question, path: target.path },
        checks: [answers],
      },
    ];
  },
};
