import type { FieldLine } from "../fields/fields.js";
import type { Target, TargetProblem } from "../request/target.js";
import type { Diagnosis } from "../source.js";
import type { Origin } from "../text/origin.js";
import type { Reason } from "./reason.js";

/** What a candidate was tried as. */
export type CandidateRole =
  | "exact file"
  | "implied extension"
  | "earlier release"
  | "shorter address"
  | "default document"
  | "directory"
  | "app shell"
  | "variant"
  | "listed file"
  | "error page"
  | "prebuilt coding";

/** One step on the way to an answer. Stages append steps when a trace is asked for; without one they do no work for it. */
export type TraceStep =
  | { stage: "target"; target: Target }
  | { stage: "target"; problem: TargetProblem }
  | { stage: "mount"; at: string; source: string; path: string }
  | { stage: "mount"; at: undefined; known: readonly string[] }
  | { stage: "rules"; area: string; rules: readonly RuleInForce[] }
  | {
      stage: "candidate";
      role: CandidateRole;
      path: string;
      found: "file" | "directory" | "absent" | "error";
      reason: Reason | undefined;
      /** What the source could say about the cause. */
      diagnosis: Diagnosis | undefined;
    }
  /** What was weighed, each a name with its weight, and what was chosen. */
  | { stage: "variant"; field: string; weights: readonly string[]; chosen: string }
  /** The content coding; undefined for the bytes as they are. */
  | { stage: "representation"; coding: string | undefined; because: string }
  /** There is no Last-Modified: the digests of a seal say which version it is, or the time says nothing of the content. */
  | { stage: "undated"; sealed: boolean }
  /** What the protective fields of a document do not cover. */
  | { stage: "protection"; problems: readonly string[] }
  | { stage: "range"; field: string; outcome: string }
  | { stage: "precondition"; field: string; outcome: string }
  | ({ stage: "field" } & FieldLine);

/** A rule that is in force, in words, and where the configuration says it. */
export interface RuleInForce {
  readonly name: string;
  readonly value: string;
  /** Where it is said, in words. */
  readonly origin: string;
  readonly by: Origin["by"];
  /** The key of the configuration that says it: `mounts[0].caching`; undefined where nothing is written. */
  readonly rule: string | undefined;
}

/** The steps of an answer, in their order. */
export type Trace = TraceStep[];
