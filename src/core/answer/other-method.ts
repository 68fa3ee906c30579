import type { SiteRequest } from "../request/request.js";
import type { Rules } from "../rules/rules.js";
import { answerPreflight } from "./cross-origin.js";
import { answerBuiltIn } from "./error-answer.js";
import { type Answer, NO_BODY } from "./plan.js";

const ALLOW = ["Allow", "GET, HEAD, OPTIONS"];

/**
 * Answers a method that does not read a file: handed on where an application is behind, else OPTIONS says what is allowed
 * (RFC 9110 §9.3.7), or that another origin may read, and the rest is refused with Allow (§15.5.6). Undefined for GET and HEAD.
 */
export function answerOtherMethod(request: SiteRequest, rules?: Rules): Answer | undefined {
  const { method } = request;
  if (method === "GET" || method === "HEAD") return undefined;
  const preflight = answerPreflight(rules?.crossOrigin, request);
  if (preflight !== undefined && !(request.mayPass && rules?.whenMissing === "pass")) return preflight;
  if (request.mayPass) return { kind: "pass", reason: { code: "method-passed-on", subject: method } };
  if (method === "OPTIONS") {
    return {
      kind: "response",
      status: 204,
      fields: ALLOW,
      body: NO_BODY,
      file: undefined,
      reason: { code: "options" },
    };
  }
  return answerBuiltIn(request, 405, { code: "method-not-allowed", subject: method }, ALLOW);
}
