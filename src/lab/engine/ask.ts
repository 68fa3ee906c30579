import { type Answer, type ResponsePlan, releasePlan } from "../../core/answer/plan.js";
import type { SiteRequest } from "../../core/request/request.js";
import { own } from "../../core/text/own.js";
import { nameAnswer } from "../../site/file-names.js";
import type { Explanation } from "../../site/site.js";
import type { Beam, BodyView, LabQuestion } from "../shapes.js";
import { AUDIENCES } from "./audiences.js";
import { viewBody } from "./body.js";
import { toStages } from "./stages.js";
import { phraseOf } from "./statuses.js";
import type { Subject } from "./subject.js";
import { findOtherwise } from "./without.js";
import { findWritten } from "./written.js";

/** Asks a site as somebody would, and tells the way from target to answer. Never rejects for what is asked. */
export async function askBeam(subject: Subject, question: LabQuestion): Promise<Beam> {
  const { site, compiled } = subject;
  const request = await toRequest(subject, question);
  const explanation = await site.explain(request, { keepBody: true });
  const { answer, why, hints, trace } = explanation;
  let body: BodyView = { kind: "none", why: "the application answers" };
  try {
    if (answer.kind === "response") body = await viewUncoded(subject, request, answer);
  } catch (error) {
    body = { kind: "none", why: (error as Error).message };
  } finally {
    releasePlan(answer);
  }
  const { status, answer: named } = describe(subject, answer);
  return {
    request: {
      method: request.method,
      target: request.target,
      headers: request.headers as Record<string, string>,
    },
    status,
    tone: toneOf(answer),
    answer: named,
    why,
    hints,
    stages: toStages(explanation, status, named, subject),
    fields: trace
      .filter((step) => step.stage === "field")
      .map(({ name, value, because }) => ({ name, value, because, written: findWritten(because, subject) })),
    otherwise: await findOtherwise(compiled, request, answer, (one) => describe(subject, one)),
    body,
  };
}

/** The request that somebody sends. A reload has asked before, and sends the validators of that answer. */
export async function toRequest({ site }: Subject, question: LabQuestion): Promise<SiteRequest> {
  const { method, target, as, headers, behind } = question;
  const audience = own(AUDIENCES, as) ?? { label: as, headers: {} };
  const sent = Object.fromEntries(
    Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value]),
  );
  const request: SiteRequest = { method, target, headers: { ...audience.headers, ...sent }, mayPass: behind };
  if (!audience.again) return request;
  const before = await site.respond(request);
  releasePlan(before);
  if (before.kind === "pass") return request;
  const tag = before.fields.get("etag");
  const modified = before.fields.get("last-modified");
  return {
    ...request,
    headers: {
      ...(tag !== undefined && { "if-none-match": tag }),
      ...(modified !== undefined && { "if-modified-since": modified }),
      ...request.headers,
    },
  };
}

// What was compressed for the way is shown as it was before.
async function viewUncoded({ site }: Subject, request: SiteRequest, answer: ResponsePlan): Promise<BodyView> {
  if (answer.fields.get("content-encoding") === undefined) return viewBody(answer);
  const headers = { ...request.headers, "accept-encoding": "identity" };
  const plain = await site.respond({ ...request, headers });
  try {
    return plain.kind === "pass" ? { kind: "none", why: "" } : await viewBody(plain);
  } finally {
    releasePlan(plain);
  }
}

function describe({ site }: Subject, answer: Answer): { readonly status: string; readonly answer: string } {
  if (answer.kind === "pass") return { status: "passed on", answer: "the application behind the site" };
  const status = `${answer.status} ${phraseOf(answer.status)}`;
  const file = nameAnswer(site.mounts, answer);
  if (file !== undefined) return { status, answer: file };
  const location = answer.fields.get("location");
  if (location !== undefined) return { status, answer: `a redirect to ${location}` };
  if (answer.reason.code === "listing") return { status, answer: "a list of the folder" };
  return { status, answer: "no file" };
}

function toneOf(answer: Explanation["answer"]): Beam["tone"] {
  if (answer.kind === "pass") return "passed on";
  if (answer.status >= 400) return "refused";
  return answer.status >= 300 ? "led on" : "good";
}
