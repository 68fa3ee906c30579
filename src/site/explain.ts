import { type Answer, releasePlan } from "../core/answer/plan.js";
import { describeReason } from "../core/explain/reason.js";
import type { Trace } from "../core/explain/trace.js";
import type { SiteRequest } from "../core/request/request.js";
import { respond } from "../core/respond.js";
import type { CompiledSite } from "../core/site.js";
import { findCautions } from "./cautions.js";
import { findHints } from "./hints.js";
import type { ExplainOptions, Explanation } from "./site.js";

/** Plans a response and records each step, with what led to each field and, for an error, what to do about it. */
export async function explainRequest(
  site: CompiledSite,
  request: SiteRequest,
  { keepBody = false }: ExplainOptions = {},
): Promise<Explanation> {
  const trace: Trace = [];
  const answer = await respond(site, request, { trace });
  traceFields(trace, answer);
  const hints = await findWhatToDo(site, request, answer, trace);
  if (!keepBody) releasePlan(answer);
  return { answer, trace, why: describeReason(answer.reason), hints };
}

// What is passed on is the application's: there is nothing to mend here.
async function findWhatToDo(
  site: CompiledSite,
  request: SiteRequest,
  answer: Answer,
  trace: Trace,
): Promise<readonly string[]> {
  if (answer.kind === "pass") return [];
  return answer.status >= 400
    ? findHints(site, answer.reason, trace)
    : findCautions(site, request, answer, trace);
}

function traceFields(trace: Trace, answer: Answer): void {
  if (answer.kind === "pass") return;
  for (const line of answer.fields) trace.push({ stage: "field", ...line });
}
