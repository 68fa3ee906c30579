import type { Question } from "./ask/ask.js";
import type { Check, Difference } from "./checks/check.js";
import type { FollowUp } from "./checks/follow-ups.js";
import type { ONLY } from "./format/follow-up-written.js";

/** One case, ready to run: a request, and what its answer must be. */
export interface Case {
  readonly name: string;
  /** The group it stands in, or the pack it belongs to. */
  readonly group: string | undefined;
  readonly question: Question;
  readonly checks: readonly Check[];
  readonly followUps: readonly FollowUp[];
  /** Where it is written, as `file:line:column`; undefined for a case of a pack. */
  readonly position: string | undefined;
  /** The reason of a pack's case: the standard's section, or what goes wrong otherwise. */
  readonly reason: string | undefined;
  /** What could be better where it does not hold: a right server may do without, so the case does not fail. */
  readonly advice?: string | undefined;
  /** What is wrong with it already, so nothing is asked. */
  readonly unmet?: Difference | undefined;
  /** Why it is not asked at all; undefined for a case that is. */
  readonly skip?: string | undefined;
  readonly only: (typeof ONLY)[number] | undefined;
  /** How often it is asked, each time with the same outcome wanted; once when not given. */
  readonly times?: number | undefined;
  /** How many of those are in progress at the same time. */
  readonly atOnce?: number | undefined;
  /** Undefined where the run's own setting decides. */
  readonly retries: number | undefined;
  readonly timeoutMs: number | undefined;
}
