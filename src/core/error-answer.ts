import { chooseBuiltInPage } from "./built-in-page.js";
import { openCandidate, type ResolutionContext } from "./candidate.js";
import { type BodyPlan, NO_BODY, type ResponsePlan } from "./plan.js";
import type { Reason } from "./reason.js";
import { describeRepresentation } from "./representation.js";
import { fieldValue, type SiteRequest } from "./request.js";

/** Plans an error: with the document the rules name for the status, or else a built-in body. Never a redirect, never conditional. */
export async function answerError(
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
  const { errorFields } = describeRepresentation(path, file.metadata, context.rules, nowSeconds);
  let body: BodyPlan = NO_BODY;
  if (context.request.method === "HEAD") file.close();
  else body = { kind: "file", file, parts: [{ offset: 0, length: file.metadata.sizeBytes }] };
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
