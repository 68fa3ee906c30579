import type { SiteRequest } from "../request/request.js";
import type { Rules } from "../rules/rules.js";
import { answerError, type ErrorContext } from "./error-answer.js";
import { payOwed } from "./owed.js";
import type { Answer, Decision, Refusal } from "./plan.js";

/**
 * The one exit of every answer: an error gets its page, and whatever is sent gets what every answer owes. No stage does either
 * by itself.
 */
export function finish(decision: Exclude<Decision, Refusal>, rules: Rules, request: SiteRequest): Answer {
  return decision.kind === "pass" ? decision : payOwed(decision, rules, request);
}

/** The same exit for an error. */
export async function finishError(
  context: ErrorContext,
  request: SiteRequest,
  refusal: Refusal,
): Promise<Answer> {
  return payOwed(await answerError(context, request, refusal), context.rules, request);
}
