import type { ErrorContext } from "./answer/error-answer.js";
import { finish, finishError } from "./answer/exit.js";
import { answerFile } from "./answer/file-answer.js";
import { answerOtherMethod, passMethod } from "./answer/other-method.js";
import { type Answer, answerRedirect, type Decision, refuse, sentFile } from "./answer/plan.js";
import type { Reason } from "./explain/reason.js";
import type { Trace } from "./explain/trace.js";
import { Fields } from "./fields/fields.js";
import type { Answers } from "./represent/known-files.js";
import type { SiteRequest } from "./request/request.js";
import { SHELL_VARY } from "./resolve/app-shell.js";
import { type Notes, OpenFiles, toError } from "./resolve/open-files.js";
import type { Resolution } from "./resolve/resolution.js";
import { leavesRoom, resolve, resolveMoved } from "./resolve/resolve.js";
import { chooseVariant } from "./resolve/variants.js";
import { findPlace, type Nowhere, type Place, placePath } from "./rules/place.js";
import type { Rules } from "./rules/rules.js";
import type { CompiledSite } from "./site.js";

const NOTHING: Notes = {};
// RFC 9112 §3.2: a proxy and this server could each believe another one.
const SEVERAL_HOSTS: Nowhere = { status: 400, reason: { code: "several-hosts" } };

/** A request on its way: where it points, and the files that were opened for it. */
interface Way {
  readonly site: CompiledSite;
  readonly request: SiteRequest;
  readonly place: Place;
  readonly files: OpenFiles;
  readonly trace: Trace | undefined;
}

/**
 * From a request head to what will be sent: the one straight line, a call a stage. This is the hot path: nothing may be
 * added here that could be worked out at start, and nothing is noted unless it is asked for. Never rejects for
 * what a request says.
 */
export function respond(site: CompiledSite, request: SiteRequest, notes: Notes = NOTHING): Promise<Answer> {
  if (request.hasSeveralHosts) return leave(site, request, turnAway(request, SEVERAL_HOSTS));
  if (request.target === "*" && request.method === "OPTIONS")
    return leave(site, request, answerOtherMethod(request, site.outside)!);
  const { trace } = notes;
  const found = findPlace(site.mounts, request, trace);
  if (!found.ok) return leave(site, request, answerNowhere(site, request, found.problem));
  return travel(startOut(site, request, found.value, notes), async (way) => {
    const { rules } = way.place;
    const other = answerOtherMethod(request, rules);
    if (other !== undefined) return (await isOfApplication(way, other)) ? passMethod(request) : other;
    trace?.push({ stage: "rules", area: rules.area, rules: rules.describe() });
    const resolution = await resolve(way.files, way.place, request.headers, site.moved);
    return answer(way, rules.variants === undefined ? resolution : await negotiate(way, resolution));
  });
}

/**
 * Plans one file of the site for a request, whatever its target says: for a route of the application's own. The same rules
 * hold as at the file's own address; nothing stands in for it when it is missing.
 */
export function respondWithFile(site: CompiledSite, sitePath: string, request: SiteRequest): Promise<Answer> {
  if (request.hasSeveralHosts) return leave(site, request, turnAway(request, SEVERAL_HOSTS));
  const target = { path: sitePath, directoryForm: false, emptySegment: false, query: "" };
  const found = placePath(site.mounts, sitePath, target, undefined);
  if (!found.ok) return leave(site, request, turnAway(request, found.problem));
  return travel(startOut(site, request, found.value, NOTHING), async (way) => {
    const { files, place } = way;
    const other = answerOtherMethod(request, place.rules);
    if (other !== undefined) return other;
    const candidate = await files.open(place.path, "exact file");
    if (candidate.kind === "file") return answer(way, { ...candidate, reason: { code: "exact-file" } });
    const status = candidate.kind === "error" ? candidate.status : 404;
    return answer(way, { kind: "none", status, reason: candidate.reason });
  });
}

/** Plans the error for an answer that could not be delivered, when none of it was sent: with the error page of the rules. */
export function respondFailed(
  site: CompiledSite,
  request: SiteRequest,
  message: string,
  isTemporary?: boolean,
): Promise<Answer> {
  const failure = toFailure({ message, isTemporary });
  const found = findPlace(site.mounts, request, undefined);
  if (!found.ok) return leave(site, request, failure);
  return travel(startOut(site, request, found.value, NOTHING), async () => failure);
}

// From what answers to the plan of it.
function answer(way: Way, resolution: Resolution): Promise<Decision> | Decision {
  const { site, request, place, files, trace } = way;
  const { path: asked, target } = place;
  const { compressor, remembered, pause } = site;
  switch (resolution.kind) {
    case "file": {
      const { path, file, reason, variant } = resolution;
      const address = files.addressOf(path);
      const answers = addressesOf(reason);
      const why: Reason = variant?.isOther ? { code: "variant", subject: variant.field } : reason;
      const { mount } = files;
      const chosen = { path, file, mount, rules: place.rules, answers, variant, address, reason: why };
      const known = remembered.files;
      return answerFile({ request, files, known, compressor, nowSeconds: nowSeconds(site), trace }, chosen);
    }
    case "listing": {
      const { directories: known, files: knownFiles } = remembered;
      const context = { files, known, knownFiles, pause, request, compressor, nowSeconds: nowSeconds(site) };
      const { found, rules } = resolution;
      // Sizes and times of files show in it, of which the directory tells nothing.
      files.dependOnMore();
      return site.answerListing(
        context,
        { path: asked, found, query: target.query, rules: place.rules },
        rules,
      );
    }
    case "redirect":
      return answerRedirect(resolution.location, resolution.reason, resolution.temporary);
    case "none":
      return answerNothing(way, resolution);
  }
}

// Of a file that is in several formats or languages, the one that the client wants most.
async function negotiate({ request, place, files, trace }: Way, resolution: Resolution): Promise<Resolution> {
  if (resolution.kind !== "file" || resolution.reason.code === "earlier-release") return resolution;
  const context = { files, rules: place.rules, headers: request.headers, trace };
  return { ...resolution, ...(await chooseVariant(context, resolution)) };
}

function addressesOf({ code }: Reason): Answers {
  if (code === "app-shell") return "deep links";
  return code === "implied-extension" ? "shorter address" : "own address";
}

// Nothing of the site answers: an error, or the application behind the site does.
function answerNothing(
  { request, place: { rules } }: Way,
  nothing: Extract<Resolution, { kind: "none" }>,
): Decision {
  const { status, dependsOnClient } = nothing;
  const fields = dependsOnClient ? SHELL_VARY : Fields.NONE;
  if (!request.mayPass || !leavesRoom(nothing)) return refuse(status, nothing.reason, fields);
  const { whenMissing: value, origins } = rules;
  const reason = { ...nothing.reason, whenMissing: { value, said: origins.whenMissing.words } };
  return value === "pass" ? { kind: "pass", reason } : refuse(status, reason, fields);
}

// A preflight is answered for what the site has; one for an address of the application is the application's.
async function isOfApplication(
  { site: { moved }, request, place, files }: Way,
  { reason }: Decision,
): Promise<boolean> {
  if (reason.code !== "preflight" || !request.mayPass || place.rules.whenMissing !== "pass") return false;
  const resolution = await resolve(files, place, request.headers, moved);
  return resolution.kind === "none" && leavesRoom(resolution);
}

function startOut(site: CompiledSite, request: SiteRequest, place: Place, notes: Notes): Way {
  const files = new OpenFiles(place.mount, place.rules, notes);
  return { site, request, place, files, trace: notes.trace };
}

// The request's files are opened for the length of the call; the one that is sent goes on with the answer.
async function travel(way: Way, decide: (way: Way) => Promise<Decision>): Promise<Answer> {
  const { site, request, files } = way;
  const { rules } = way.place;
  let sent: Answer | undefined;
  try {
    let decision: Decision;
    try {
      decision = await decide(way);
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
  const { message = String(error), isTemporary } = (error ?? {}) as Partial<Error> & {
    isTemporary?: boolean;
  };
  const { status, reason } = toError({ busy: isTemporary, cause: message });
  return refuse(status, reason);
}

// What no mount covers may have had an address once.
function answerNowhere(site: CompiledSite, request: SiteRequest, nowhere: Nowhere): Decision {
  const { path, target } = nowhere;
  const moved =
    path === undefined || target!.emptySegment ? undefined : resolveMoved(site.moved, path, target!);
  if (moved === undefined) return turnAway(request, nowhere);
  const other = answerOtherMethod(request, site.outside);
  if (other !== undefined) return other;
  return moved.kind === "redirect"
    ? answerRedirect(moved.location, moved.reason, moved.temporary)
    : refuse(moved.status, moved.reason);
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
