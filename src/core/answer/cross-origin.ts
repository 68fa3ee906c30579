import { fieldValue, type SiteRequest } from "../request/request.js";
import { type BodyPlan, NO_BODY, type ResponsePlan } from "./plan.js";

/** Which origins may read the files: all, or those of the list. */
export type CrossOrigin = "*" | readonly string[];

// What a script of another origin may see of a response, besides the fields that it always may.
const EXPOSED = "Accept-Ranges, Content-Encoding, Content-Length, Content-Range, ETag";
const RESOURCE_POLICY = ["Cross-Origin-Resource-Policy", "cross-origin"];

/** The field lines that let other origins read a response (Fetch Standard §3.2, §3.7). */
export function crossOriginFields(allowed: CrossOrigin | undefined, request: SiteRequest): readonly string[] {
  if (allowed === undefined) return [];
  const origin = allowed === "*" ? "*" : matchOrigin(allowed, request);
  if (origin === undefined) return RESOURCE_POLICY;
  return [
    "Access-Control-Allow-Origin",
    origin,
    "Access-Control-Expose-Headers",
    EXPOSED,
    ...RESOURCE_POLICY,
  ];
}

/** The same for an error, whose other fields do not say yet that it varies by the origin that asks. */
export function crossOriginErrorFields(
  allowed: CrossOrigin | undefined,
  request: SiteRequest,
): readonly string[] {
  const fields = crossOriginFields(allowed, request);
  return Array.isArray(allowed) ? [...fields, "Vary", "Origin"] : fields;
}

function matchOrigin(allowed: readonly string[], { headers }: SiteRequest): string | undefined {
  const origin = fieldValue(headers, "origin");
  return origin !== undefined && allowed.includes(origin) ? origin : undefined;
}

/** Answers a preflight for reading (Fetch Standard §3.2.2); undefined when the request is none, or not for GET or HEAD. */
export function answerPreflight(
  allowed: CrossOrigin | undefined,
  request: SiteRequest,
): ResponsePlan | undefined {
  if (allowed === undefined || request.method !== "OPTIONS") return undefined;
  const method = fieldValue(request.headers, "access-control-request-method");
  if (method !== "GET" && method !== "HEAD") return undefined;
  const origin = allowed === "*" ? "*" : matchOrigin(allowed, request);
  const vary = allowed === "*" ? [] : ["Vary", "Origin"];
  const wanted = fieldValue(request.headers, "access-control-request-headers");
  const granted =
    origin === undefined
      ? []
      : [
          "Access-Control-Allow-Origin",
          origin,
          "Access-Control-Allow-Methods",
          "GET, HEAD",
          ...(wanted === undefined ? [] : ["Access-Control-Allow-Headers", READING_FIELDS]),
          "Access-Control-Max-Age",
          "600",
        ];
  const body: BodyPlan = NO_BODY;
  const fields = ["Allow", "GET, HEAD, OPTIONS", ...granted, ...vary];
  return { kind: "response", status: 204, fields, body, file: undefined, reason: { code: "preflight" } };
}

// What a reader has a use for; a file answers none of the others in any other way.
const READING_FIELDS =
  "Accept, If-Match, If-Modified-Since, If-None-Match, If-Range, If-Unmodified-Since, Range";
