import type { Reason } from "../explain/reason.js";
import { describeFile } from "../represent/profile.js";
import { fieldValue, type SiteRequest } from "../request/request.js";
import { openCandidate, type ResolutionContext } from "../resolve/candidate.js";
import type { FileProfile } from "../rules/rules.js";
import { chooseBuiltInPage } from "./built-in-page.js";
import { crossOriginErrorFields } from "./cross-origin.js";
import { type BodyPlan, NO_BODY, type ResponsePlan } from "./plan.js";

/** Plans an error: with the document the rules name for the status, or else a built-in body. Never a redirect, never conditional. */
export async function answerError(
  context: ResolutionContext,
  status: number,
  reason: Reason,
  nowSeconds: number,
): Promise<ResponsePlan> {
  const plan = await planError(context, status, reason, nowSeconds);
  const origins = crossOriginErrorFields(context.rules.crossOrigin, context.request);
  return origins.length === 0 ? plan : { ...plan, fields: [...plan.fields, ...origins] };
}

async function planError(
  context: ResolutionContext,
  status: number,
  reason: Reason,
  nowSeconds: number,
): Promise<ResponsePlan> {
  const path = context.rules.errorPages.get(status);
  if (path === undefined) return answerBuiltIn(context.request, status, reason);
  const candidate = await openCandidate(context, path, "error page");
  if (candidate.kind !== "file") return answerBuiltIn(context.request, status, reason);

  const { file } = candidate;
  let profile: FileProfile;
  try {
    profile = await describeFile(path, file, context.rules, nowSeconds);
  } catch {
    file.close();
    return answerBuiltIn(context.request, status, reason);
  }
  const { contentType, safetyFields } = profile;
  const size = file.metadata.sizeBytes;
  // Neither validators nor a lifetime: an error is sent whole each time.
  const errorFields = [
    "Content-Type",
    contentType,
    "Content-Length",
    String(size),
    "Cache-Control",
    "no-cache",
    ...safetyFields,
  ];
  let body: BodyPlan = NO_BODY;
  if (context.request.method === "HEAD") file.close();
  else body = { kind: "file", file, parts: [{ offset: 0, length: size }] };
  return { kind: "response", status, fields: errorFields, body, file: undefined, reason };
}

/** Plans an error with the built-in body; `more` are field lines that the status asks for. */
export function answerBuiltIn(
  request: SiteRequest,
  status: number,
  reason: Reason,
  more: readonly string[] = [],
): ResponsePlan {
  const page = chooseBuiltInPage(status, fieldValue(request.headers, "accept"));
  return {
    kind: "response",
    status,
    fields: more.length === 0 ? page.fields : [...page.fields, ...more],
    body: request.method === "HEAD" ? NO_BODY : { kind: "bytes", bytes: page.bytes },
    file: undefined,
    reason,
  };
}
