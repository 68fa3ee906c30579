import { answerBuiltIn, answerError } from "./answer/error-answer.js";
import { answerFile } from "./answer/file-answer.js";
import { answerOtherMethod } from "./answer/other-method.js";
import { type Answer, NO_BODY, type ResponsePlan } from "./answer/plan.js";
import type { Reason } from "./explain/reason.js";
import type { Trace } from "./explain/trace.js";
import { listRules } from "./explain/trace-rules.js";
import { answerListing } from "./listing/answer.js";
import type { SiteRequest } from "./request/request.js";
import { parseTarget, stripPrefix } from "./request/target.js";
import { openCandidate, type ResolutionContext } from "./resolve/candidate.js";
import { leavesRoom, resolve } from "./resolve/resolution.js";
import { type CompiledSite, selectRules } from "./rules/rules.js";
import { selectMount } from "./rules/select.js";

const NOSNIFF = ["X-Content-Type-Options", "nosniff"];

/**
 * From a request head to what will be sent: the one straight line, a call a stage. This is the hot path: nothing may be
 * added here that could be worked out at start, and no stage does work for a trace unless one is given. Never rejects for
 * what a request says.
 */
export async function respond(site: CompiledSite, request: SiteRequest, trace?: Trace): Promise<Answer> {
  if (request.target === "*" && request.method === "OPTIONS") return answerOtherMethod(request)!;

  const parsed = parseTarget(request.target);
  if (!parsed.ok) {
    trace?.push({ stage: "target", problem: parsed.problem });
    return refuse(request, 400, { code: parsed.problem.code });
  }
  const target = parsed.value;
  trace?.push({ stage: "target", target });

  const sitePath = stripPrefix(target.path, request.strippedPrefix);
  if (sitePath === undefined) {
    return refuse(request, 404, { code: "outside-stripped-prefix", subject: request.strippedPrefix! });
  }
  const mounted = selectMount(site, sitePath, trace);
  if (mounted === undefined) return refuse(request, 404, { code: "outside-every-mount" });

  const { mount, path } = mounted;
  const rules = selectRules(mount, path);
  const other = answerOtherMethod(request, rules);
  if (other !== undefined) return other;
  trace?.push({ stage: "rules", area: rules.area, rules: listRules(rules) });

  const context: ResolutionContext = { request, target, mount, path, rules, trace };
  const resolution = await resolve(context);
  switch (resolution.kind) {
    case "file":
      return answerFile(site, context, resolution);
    case "listing":
      return (
        (await answerListing(site, context, resolution.path, resolution.rules)) ??
        answerError(context, 403, { code: "no-permission", subject: "its names" }, nowSeconds(site))
      );
    case "redirect":
      return answerRedirect(resolution.location, resolution.reason);
    case "none":
      if (request.mayPass && rules.whenMissing === "pass" && leavesRoom(resolution)) {
        return { kind: "pass", reason: resolution.reason };
      }
      return answerError(context, resolution.status, resolution.reason, nowSeconds(site));
  }
}

/**
 * Plans one file of the site for a request, whatever its target says: for a route of the application's own. The same rules
 * hold as at the file's own address; nothing stands in for it when it is missing.
 */
export async function respondWithFile(
  site: CompiledSite,
  sitePath: string,
  request: SiteRequest,
): Promise<Answer> {
  const mounted = selectMount(site, sitePath, undefined);
  if (mounted === undefined) return refuse(request, 404, { code: "outside-every-mount" });
  const { mount, path } = mounted;
  const rules = selectRules(mount, path);
  const other = answerOtherMethod(request, rules);
  if (other !== undefined) return other;
  const target = { path: sitePath, directoryForm: false, emptySegment: false, query: "" };
  const context: ResolutionContext = { request, target, mount, path, rules, trace: undefined };
  const candidate = await openCandidate(context, path, "exact file");
  if (candidate.kind === "file")
    return answerFile(site, context, { ...candidate, reason: { code: "exact-file" } });
  const status = candidate.kind === "error" ? candidate.status : 404;
  if (request.mayPass && rules.whenMissing === "pass" && status === 404)
    return { kind: "pass", reason: candidate.reason };
  return answerError(context, status, candidate.reason, nowSeconds(site));
}

function answerRedirect(location: string, reason: Reason): ResponsePlan {
  const fields = ["Location", location, "Content-Length", "0", "Cache-Control", "no-cache", ...NOSNIFF];
  return { kind: "response", status: 301, fields, body: NO_BODY, file: undefined, reason };
}

// An address that cannot be a file's, or that no mount covers, is the application's where there is one behind.
function refuse(request: SiteRequest, status: number, reason: Reason): Answer {
  return request.mayPass ? { kind: "pass", reason } : answerBuiltIn(request, status, reason);
}

function nowSeconds(site: CompiledSite): number {
  return Math.floor(site.now() / 1000);
}
