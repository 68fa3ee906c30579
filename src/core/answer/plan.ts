import type { Reason } from "../explain/reason.js";
import { Fields } from "../fields/fields.js";
import type { OpenedFile } from "../source.js";

/** A run of bytes of the opened file, or bytes that are already at hand. */
export type BodyPart = Uint8Array | { readonly offset: number; readonly length: number };

/** What the body of an answer is: nothing, bytes in memory, or ranges of an opened file. */
export type BodyPlan =
  | { readonly kind: "none" }
  | { readonly kind: "bytes"; readonly bytes: Uint8Array }
  | { readonly kind: "file"; readonly file: OpenedFile; readonly parts: readonly BodyPart[] };

/** A plan on its way through the stages: the exit adds to its fields. */
export interface Draft {
  readonly kind: "response";
  readonly status: number;
  fields: Fields;
  readonly body: BodyPlan;
  /** The file that answers, with the mount's prefix; undefined when none does. */
  readonly file: string | undefined;
  /** Values of Link that may be told before the answer, where there are some (RFC 8297). */
  readonly early?: readonly string[] | undefined;
  /** Why this answer, as data; `describeReason` puts it into words. */
  readonly reason: Reason;
}

/** What will be sent, before it is sent. A plan whose body is a file owns it: carry the plan out, or release it. */
export type ResponsePlan = Readonly<Draft>;

/** The site does not answer this request: the application behind it should. */
export interface Pass {
  readonly kind: "pass";
  readonly reason: Reason;
}

/** An answer of a site: a plan to carry out, or a pass to the application behind the site. */
export type Answer = ResponsePlan | Pass;

/** A stage's outcome that is an error: the exit plans it, with the error page of the rules or the built-in one. */
export interface Refusal {
  readonly kind: "refusal";
  readonly status: number;
  readonly reason: Reason;
  /** Fields that the status asks for, such as Allow. */
  readonly fields: Fields;
}

/** What the stages decide; the exit makes an answer of it. */
export type Decision = Draft | Pass | Refusal;

export const NO_BODY: BodyPlan = { kind: "none" };

export function refuse(status: number, reason: Reason, fields: Fields = Fields.NONE): Refusal {
  return { kind: "refusal", status, reason, fields };
}

/** A response without content: a redirect, a list of methods, a copy that is current. */
export function answerBare(status: number, fields: Fields, reason: Reason, file?: string): Draft {
  return { kind: "response", status, fields, body: NO_BODY, file, reason };
}

/** A redirect for good (RFC 9110 §15.4.2) or for a while (§15.4.3), that is revalidated each time. */
export function answerRedirect(location: string, reason: Reason, temporary = false): Draft {
  const fields = Fields.of(
    ["Location", location, "the new address"],
    ["Content-Length", "0", "the body is empty"],
    ["Cache-Control", "no-cache", "a redirect is revalidated each time"],
  );
  return answerBare(temporary ? 302 : 301, fields, reason);
}

/** The file that a plan sends, and owns; undefined when it sends none. */
export function sentFile(answer: Answer | undefined): OpenedFile | undefined {
  return answer?.kind === "response" && answer.body.kind === "file" ? answer.body.file : undefined;
}

/** Releases what a plan owns, when it is not carried out. Safe to call more than once. */
export function releasePlan(answer: Answer): void {
  sentFile(answer)?.close();
}
