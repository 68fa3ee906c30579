import type { ErrorContext } from "./answer/error-answer.js";
import { finish, finishError } from "./answer/exit.js";
import { answerFile } from "./answer/file-answer.js";
import { answerListing } from "./answer/listing-answer.js";
import { answerOtherMethod } from "./answer/other-method.js";
import { type Answer, answerRedirect, type Decision, refuse, sentFile } from "./answer/plan.js";
import type { Trace } from "./explain/trace.js";
import type { SiteRequest } from "./request/request.js";
import { OpenFiles } from "./resolve/open-files.js";
import type { Resolution } from "./resolve/resolution.js";
import { leavesRoom, resolve } from "./resolve/resolve.js";
import { findPlace, type Nowhere, type Place, placePath } from "./rules/place.js";
import type { Rules } from "./rules/rules.js";
import type { CompiledSite } from "./site.js";

/**
 * From a request head to what will be sent: the one straight line, a call a stage. This is the hot path: nothing may be
 * added here that could be worked out at start, and no stage does work for a trace unless one is given. Never rejects for
 * what a request says.
 */
export function respond(site: CompiledSite, request: SiteRequest, trace?: Trace): Promise<Answer> {
  if (request.target === "*" && request.method === "OPTIONS")
    return leave(site, request, answerOtherMethod(request, site.outside)!);
  const found = findPlace(site.mounts, request, trace);
  if (!found.ok) return leave(site, request, turnAway(request, found.problem));
  const place = found.value;
  return withFiles(site, request, place, trace, async (files) => {
    const other = answerOtherMethod(request, place.rules);
    if (other !== undefined) return other;
    trace?.push({ stage: "rules", area: place.rules.area, rules: place.rules.describe() });
    const resolution = await resolve(files, place, request.headers);
    return answer(site, request, place, files, resolution, trace);
  });
}

/**
 * Plans one file of the site for a request, whatever its target says: for a route of the application's own. The same rules
 * hold as at the file's own address; nothing stands in for it when it is missing.
 */
export function respondWithFile(
  site: CompiledSite,
  sitePath: string,
  request: SiteRequest,
): Promise<Answer> {
  const target = { path: sitePath, directoryForm: false, emptySegment: false, query: "" };
  const found = placePath(site.mounts, sitePath, target, undefined);
  if (!found.ok) return leave(site, request, turnAway(request, found.problem));
  const place = found.value;
  return withFiles(site, request, place, undefined, async (files) => {
    const other = answerOtherMethod(request, place.rules);
    if (other !== undefined) return other;
    const candidate = await files.open(place.path, "exact file");
    const resolution: Resolution =
      candidate.kind === "file"
        ? { ...candidate, reason: { code: "exact-file" } }
        : {
            kind: "none",
            status: candidate.kind === "error" ? candidate.status : 404,
            reason: candidate.reason,
          };
    return answer(site, request, place, files, resolution, undefined);
  });
}

/** Plans the error for an answer that could not be delivered, when none of it was sent: with the error page of the rules. */
export function respondFailed(
  site: CompiledSite,
  request: SiteRequest,
  cause: string,
): Promise<Answer> {
  const failure = refuse(500, { code: "failed", subject: cause });
  const found = findPlace(site.mounts, request, undefined);
  if (!found.ok) return leave(site, request, failure);
  return withFiles(site, request, found.value, undefined, async () => failure);
}

// From what answers to the plan of it.
function answer(
  site: CompiledSite,
  request: SiteRequest,
  { mount, path: asked, target, rules }: Place,
  files: OpenFiles,
  resolution: Resolution,
  trace: Trace | undefined,
): Promise<Decision> | Decision {
  const { headers } = request;
  switch (resolution.kind) {
    case "file": {
      const { path, file, reason } = resolution;
      const address = mount.at === "" ? path : `${mount.at}/${path}`;
      const chosen = { path, file, rules, isShell: reason.code === "app-shell", address, reason };
      const { compressor, remembered } = site;
      const negotiation = { files, known: remembered.files, compressor, headers };
      return answerFile(negotiation, chosen, request, nowSeconds(site), trace);
    }
    case "listing":
      return answerListing(
        { known: site.remembered.directories, pause: site.pause, nowSeconds: nowSeconds(site) },
        { mount, path: asked },
        resolution.rules,
        request,
        target.query,
      );
    case "redirect":
      return answerRedirect(resolution.location, resolution.reason);
    case "none":
      return request.mayPass && rules.whenMissing === "pass" && leavesRoom(resolution)
        ? { kind: "pass", reason: resolution.reason }
        : refuse(resolution.status, resolution.reason);
  }
}

// The request's files are opened for the length of the call; the one that is sent goes on with the answer.
async function withFiles(
  site: CompiledSite,
  request: SiteRequest,
  { mount, rules }: Place,
  trace: Trace | undefined,
  decide: (files: OpenFiles) => Promise<Decision>,
): Promise<Answer> {
  const files = new OpenFiles(mount, rules, trace);
  let sent: Answer | undefined;
  try {
    let decision: Decision;
    try {
      decision = await decide(files);
    } catch (error) {
      decision = toFailure(error);
    }
    sent =
      decision.kind === "refusal"
        ? await finishError(contextOf(site, rules, files), request, decision)
        : finish(decision, rules, request);
    return sent;
  } finally {
    files.closeAllBut(sentFile(sent));
  }
}

// A file that cannot be read, or a rendering of the developer's that throws.
function toFailure(error: unknown): Decision {
  return refuse(500, { code: "failed", subject: error instanceof Error ? error.message : String(error) });
}

// An address that cannot be a file's, or that no mount covers, is the application's where there is one behind.
function turnAway(request: SiteRequest, { status, reason }: Nowhere): Decision {
  return request.mayPass ? { kind: "pass", reason } : refuse(status, reason);
}

// The exit for what no mount covers.
async function leave(site: CompiledSite, request: SiteRequest, decision: Decision): Promise<Answer> {
  return decision.kind === "refusal"
    ? finishError(contextOf(site, site.outside, undefined), request, decision)
    : finish(decision, site.outside, request);
}

function contextOf(site: CompiledSite, rules: Rules, files: OpenFiles | undefined): ErrorContext {
  const { files: known, pages } = site.remembered;
  return { rules, files, known, pages, nowSeconds: nowSeconds(site) };
}

function nowSeconds(site: CompiledSite): number {
  return Math.floor(site.now() / 1000);
}
