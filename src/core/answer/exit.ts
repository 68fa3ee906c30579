import type { SiteRequest } from "../request/request.js";
import { answerError, type ErrorContext } from "./error-answer.js";
import { payOwed } from "./owed.js";
import type { Answer, Decision } from "./plan.js";

/**
 * The one exit of every answer: an error gets its page, and whatever is sent gets what every answer owes. No stage does either
 * by itself.
 */
export function finish(
  context: ErrorContext,
  request: SiteRequest,
  decision: Decision,
): Answer | Promise<Answer> {
  switch (decision.kind) {
    case "pass":
      return decision;
    case "response":
      return payOwed(decision, context.rules, request);
    case "refusal":
      return answerError(context, request, decision).then((plan) => payOwed(plan, context.rules, request));
  }
}
