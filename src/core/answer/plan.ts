import type { Reason } from "../explain/reason.js";
import type { OpenedFile } from "../source.js";

/** A run of bytes of the opened file, or bytes that are already at hand. */
export type BodyPart = Uint8Array | { readonly offset: number; readonly length: number };

export type BodyPlan =
  | { readonly kind: "none" }
  | { readonly kind: "bytes"; readonly bytes: Uint8Array }
  | { readonly kind: "file"; readonly file: OpenedFile; readonly parts: readonly BodyPart[] };

/** What will be sent, before it is sent. A plan whose body is a file holds it open: carry it out, or release it. */
export interface ResponsePlan {
  readonly kind: "response";
  readonly status: number;
  /** Field lines, name and value by turns; a name may stand more than once. */
  readonly fields: readonly string[];
  readonly body: BodyPlan;
  /** The file that answers, with the mount's prefix; undefined when none does. */
  readonly file: string | undefined;
  /** Why this answer, as data; `describeReason` puts it into words. */
  readonly reason: Reason;
}

/** The request is none of the site's business: whatever stands behind it should answer. */
export interface Pass {
  readonly kind: "pass";
  readonly reason: Reason;
}

export type Answer = ResponsePlan | Pass;

export const NO_BODY: BodyPlan = { kind: "none" };

/** Lets go of what a plan holds. Safe to call more than once, and on a plan that was carried out. */
export function releasePlan(answer: Answer): void {
  if (answer.kind === "response" && answer.body.kind === "file") answer.body.file.close();
}
