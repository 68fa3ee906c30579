import { type ResponsePlan, releasePlan } from "../../core/answer/plan.js";
import type { SiteRequest } from "../../core/request/request.js";
import { own } from "../../core/text/own.js";
import { describeAnswer, describeStatus } from "../../inspection/explain/outcome.js";
import { type StageRow as ExplainedRow, toStages } from "../../inspection/explain/stages.js";
import type { Explanation } from "../../site/site.js";
import type { Beam, BodyView, LabQuestion, StageRow } from "../shapes.js";
import { AUDIENCES } from "./audiences.js";
import { viewBody } from "./body.js";
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
  return {
    request: {
      method: request.method,
      target: request.target,
      headers: request.headers as Record<string, string>,
    },
    status: describeStatus(answer),
    tone: toneOf(answer),
    answer: describeAnswer(answer, trace, site.mounts),
    why,
    hints,
    stages: toStages(explanation).map((stage) => ({
      ...stage,
      rows: stage.rows.toSorted((a, b) => Number(isDefault(a)) - Number(isDefault(b))).flatMap(show(subject)),
    })),
    fields: trace
      .filter((step) => step.stage === "field")
      .map(({ name, value, because, rule }) => ({
        name,
        value,
        because,
        written: findWritten(rule, subject),
      })),
    otherwise: await findOtherwise(compiled, request, answer, site.mounts),
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

const isDefault = ({ tone }: ExplainedRow): boolean => tone === "quiet";

// Variants and codings are told where the form is chosen.
const ELSEWHERE: ReadonlySet<unknown> = new Set(["variant", "prebuilt coding"]);

const show =
  (subject: Subject) =>
  ({ cells, tone, about, role, rule }: ExplainedRow): StageRow[] =>
    ELSEWHERE.has(role)
      ? []
      : [
          {
            cells: about === undefined ? cells : [about, ...cells],
            tone,
            written: findWritten(rule, subject),
          },
        ];

function toneOf(answer: Explanation["answer"]): Beam["tone"] {
  if (answer.kind === "pass") return "passed on";
  if (answer.status >= 400) return "refused";
  return answer.status >= 300 ? "led on" : "good";
}
