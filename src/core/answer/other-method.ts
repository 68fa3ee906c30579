import { Fields } from "../fields/fields.js";
import { fieldValue, isPreflight, type SiteRequest } from "../request/request.js";
import type { CrossOrigin } from "../rules/cross-origin.js";
import type { Rules } from "../rules/rules.js";
import { answerBare, type Decision, type Draft, type Pass, refuse } from "./plan.js";

const ALLOW = Fields.of(["Allow", "GET, HEAD, OPTIONS", "files can only be read"]);

/**
 * Answers a method that does not read a file: passed on where an application is behind, else OPTIONS says what is allowed
 * (RFC 9110 §9.3.7), or that another origin may read, and the rest is refused with Allow (§15.5.6). Undefined for GET and HEAD.
 */
export function answerOtherMethod(request: SiteRequest, rules: Rules): Decision | undefined {
  const { method } = request;
  if (method === "GET" || method === "HEAD") return undefined;
  const preflight = answerPreflight(rules.crossOrigin, request);
  if (preflight !== undefined) return preflight;
  if (request.mayPass) return passMethod(request);
  if (method === "OPTIONS") return answerBare(204, ALLOW, { code: "options" });
  return refuse(405, { code: "method-not-allowed", subject: method }, ALLOW);
}

export function passMethod({ method }: SiteRequest): Pass {
  return { kind: "pass", reason: { code: "method-passed-on", subject: method } };
}

// What a reader has a use for; a file answers none of the others in any other way.
const READING_FIELDS =
  "Accept, If-Match, If-Modified-Since, If-None-Match, If-Range, If-Unmodified-Since, Range";

/** Answers a preflight for reading (Fetch Standard §3.2.2); undefined when the request is none, or not for GET or HEAD. */
function answerPreflight(crossOrigin: CrossOrigin | undefined, request: SiteRequest): Draft | undefined {
  if (crossOrigin === undefined || !isPreflight(request)) return undefined;
  const { headers } = request;
  const wanted = fieldValue(headers, "access-control-request-method");
  if (wanted !== "GET" && wanted !== "HEAD") return undefined;
  const origin = crossOrigin.grant(fieldValue(headers, "origin"));
  if (origin === undefined) return answerBare(204, ALLOW, { code: "preflight" });
  let fields = ALLOW.append("Access-Control-Allow-Origin", origin, "crossOrigin lets it read").append(
    "Access-Control-Allow-Methods",
    "GET, HEAD",
    "files can only be read",
  );
  if (fieldValue(headers, "access-control-request-headers") !== undefined)
    fields = fields.append("Access-Control-Allow-Headers", READING_FIELDS, "the fields that reading uses");
  fields = fields.append("Access-Control-Max-Age", "600", "rules change seldom");
  return answerBare(204, fields, { code: "preflight" });
}
