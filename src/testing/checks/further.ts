import { escapePath } from "../ask/ask.js";
import type { Expectation } from "../format/expectation-types.js";
import type { Seen } from "./check.js";
import { type FollowUp, sameContent } from "./follow-ups.js";
import { readRedirect, STEPS_AT_MOST } from "./redirects.js";

/** What an expectation asks on about: where redirects lead in the end, and an address with the same content. */
export function compileFurther(expect: Expectation): FollowUp[] {
  const further: FollowUp[] = [];
  const { leadsTo, body } = expect;
  if (leadsTo !== undefined) {
    const { address, steps = STEPS_AT_MOST } = typeof leadsTo === "string" ? { address: leadsTo } : leadsTo;
    further.push(followTo(address, steps, []));
  }
  if (body?.sameAs !== undefined) further.push(compareWith(body.sameAs));
  return further;
}

function compareWith(path: string): FollowUp {
  return {
    name: "the same content",
    plan: ({ question, reply }) => [
      {
        name: `asked for ${path}`,
        question: { ...question, path: escapePath(path) },
        checks: [{ ...sameContent(reply), expected: `the content of ${question.path}` }],
      },
    ],
  };
}

// RFC 9110 §15.4. The way is told whole, because the step that is wrong may be any.
function followTo(wanted: string, steps: number, passed: readonly string[]): FollowUp {
  return {
    name: "leads to",
    plan(first) {
      const way = [...passed, first.question.path];
      const expected = `${wanted}, in at most ${steps} ${steps === 1 ? "step" : "steps"}`;
      const fail = (problem: string) => ({ expected, problem });
      const target = readRedirect(first);
      if (target === undefined)
        return passed.length === 0
          ? fail(`no redirect: ${first.reply.status}`)
          : isThere(first, wanted)
            ? checkEnd(first, way, fail)
            : fail(`${way.join(" → ")}, which answers with ${first.reply.status}`);
      if (target.kind === "nowhere") return fail(`${way.join(" → ")}, a redirect without a Location`);
      if (target.kind === "unreadable")
        return fail(`${way.join(" → ")} → ${target.location}, which cannot be read`);
      if (target.kind === "other site")
        return target.url.href === wanted || `${target.url.href}` === `${wanted}/`
          ? []
          : fail(`${[...way, target.location].join(" → ")}, another site`);
      const shown = [...way, target.path].join(" → ");
      if (way.includes(target.path)) return fail(`${shown}, which redirects to itself`);
      if (way.length > steps) return fail(`${way.length} steps: ${shown}`);
      const question = { ...first.question, path: target.path };
      return [
        { name: `led on to ${target.path}`, question, checks: [], followUps: [followTo(wanted, steps, way)] },
      ];
    },
  };
}

function isThere({ question, address }: Seen, wanted: string): boolean {
  return question.path === escapePath(wanted) || address + question.path === wanted;
}

function checkEnd(
  { reply }: Seen,
  way: readonly string[],
  fail: (problem: string) => { expected: string; problem: string },
) {
  return reply.status >= 200 && reply.status < 300
    ? []
    : fail(`${way.join(" → ")}, which answers with ${reply.status}`);
}
