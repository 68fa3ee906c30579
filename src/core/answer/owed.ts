import { Fields } from "../fields/fields.js";
import { fieldValue, isPreflight, type SiteRequest } from "../request/request.js";
import type { CrossOrigin } from "../rules/cross-origin.js";
import type { Rules } from "../rules/rules.js";
import type { Draft, ResponsePlan } from "./plan.js";

const NOSNIFF = Fields.of(["X-Content-Type-Options", "nosniff", "always"]);
// RFC 9110 §10.2.3: in seconds.
const RETRY = Fields.of(["Retry-After", "1", "always"]);

/**
 * Adds what every answer owes, whatever it is: `nosniff`, transport security, and the fields for other origins. A field that the answer has already
 * stands. A 304 owes the origins' alone: it updates a copy that has the rest (RFC 9110 §15.4.5).
 */
export function payOwed(draft: Draft, { crossOrigin, protect }: Rules, request: SiteRequest): ResponsePlan {
  // RFC 6797 §7.2: over TLS alone.
  if (protect?.transport !== undefined && request.isSecure)
    draft.fields = draft.fields.supply(protect.transport);
  if (draft.status !== 304) draft.fields = draft.fields.supply(NOSNIFF);
  if (draft.status === 503) draft.fields = draft.fields.supply(RETRY);
  if (crossOrigin !== undefined) draft.fields = draft.fields.supply(originFields(crossOrigin, request));
  return draft;
}

function originFields(crossOrigin: CrossOrigin, request: SiteRequest): Fields {
  // A preflight is granted by the stage that answers it, or not at all.
  return isPreflight(request)
    ? crossOrigin.vary
    : crossOrigin.fieldsFor(fieldValue(request.headers, "origin"));
}
