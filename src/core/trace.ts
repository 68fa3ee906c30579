import type { Reason } from "./reason.js";
import type { Rules } from "./rules.js";
import type { Target, TargetProblem } from "./target.js";

/** What a candidate was tried as. */
export type CandidateRole =
  | "exact file"
  | "implied extension"
  | "default document"
  | "directory"
  | "app shell"
  | "error page";

/** One step on the way to an answer. Stages append steps when a trace is asked for; without one they do no work for it. */
export type TraceStep =
  | { stage: "target"; target: Target }
  | { stage: "target"; problem: TargetProblem }
  | { stage: "mount"; at: string; source: string; path: string }
  | { stage: "mount"; at: undefined; known: readonly string[] }
  | { stage: "rules"; rules: Rules }
  | {
      stage: "candidate";
      role: CandidateRole;
      path: string;
      found: "file" | "directory" | "absent" | "error";
      reason: Reason | undefined;
      /** What the source could say about the cause, in words. */
      diagnosis: string | undefined;
    }
  | { stage: "app shell"; used: false; because: string }
  | { stage: "precondition"; field: string; outcome: string }
  | { stage: "field"; name: string; value: string; because: string };

export type Trace = TraceStep[];
