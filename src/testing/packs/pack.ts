import type { Question } from "../ask/ask.js";
import { mergeFields } from "../ask/ask.js";
import type { Case } from "../case.js";
import type { Check, Got, Seen } from "../checks/check.js";
import type { FollowUp } from "../checks/follow-ups.js";
import type { Sample, Sampled } from "../discover/sample.js";

/** Makes small expectations for what a site serves. `paths` are the addresses that a person named. */
export type Pack = (sample: Sample, paths: readonly string[]) => Case[];

/** A case of a pack: what it is about, the question, what must hold, and why. */
export function makeCase(name: string, question: Question, checks: readonly Check[], reason: string): Case {
  return {
    name,
    group: undefined,
    question,
    checks,
    followUps: [],
    position: undefined,
    reason,
    only: undefined,
    retries: undefined,
    timeoutMs: undefined,
  };
}

/** The same case, that asks on from the answer. */
export function withFollowUps(one: Case, followUps: readonly FollowUp[]): Case {
  return { ...one, followUps };
}

/** The same case as advice: a right server may do without. `advice` is one sentence for all addresses. */
export function asAdvice(one: Case, advice: string): Case {
  return { ...one, advice };
}

/** Stands in a pack's place where there is nothing for it to look at. */
export function skipCase(name: string, because: string, path = "/"): Case {
  return { ...makeCase(name, get(path), [], because), skip: because };
}

export function get(path: string, headers: Readonly<Record<string, string>> = {}): Question {
  return { method: "GET", path, headers };
}

/** The question of a resource with further fields. */
export function again({ question }: Sampled, headers: Readonly<Record<string, string>>): Question {
  return { ...question, headers: mergeFields<string | readonly string[]>(question.headers, headers) };
}

/** A check of a pack's own: returns what came when it does not hold. */
export function demand(about: string, expected: string, look: (seen: Seen) => string | undefined): Check {
  return {
    about,
    expected,
    look(seen): Got | undefined {
      const got = look(seen);
      return got === undefined ? undefined : { text: got };
    },
  };
}

/** The first resources that a test lets pass, at most one of each kind. */
export function pickByKind(
  { resources }: Sample,
  limit: number,
  holds: (one: Sampled) => boolean = () => true,
): Sampled[] {
  const kinds = new Set<string>();
  const picked: Sampled[] = [];
  for (const one of resources) {
    if (picked.length >= limit) break;
    if (kinds.has(one.kind) || !holds(one)) continue;
    kinds.add(one.kind);
    picked.push(one);
  }
  return picked;
}
