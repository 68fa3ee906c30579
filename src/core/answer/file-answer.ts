import type { Reason } from "../explain/reason.js";
import type { Trace } from "../explain/trace.js";
import { Fields } from "../fields/fields.js";
import type { Described, Representation } from "../represent/known-files.js";
import { describeFile } from "../represent/profile.js";
import { type Negotiation, type Selected, selectRepresentation } from "../represent/representation.js";
import { fieldValue } from "../request/request.js";
import { addDigests } from "./digested.js";
import { planPartial } from "./partial.js";
import { answerBare, type BodyPlan, type Decision, refuse } from "./plan.js";
import { evaluatePreconditions } from "./preconditions.js";
import { decideRange, matchesIfRange, type RangeVerdict } from "./range.js";

/** A file that answers: what it is sent as, its address under the mount's prefix, and why it was chosen. */
export interface ChosenFile extends Described {
  readonly reason: Reason;
}

/** What files are answered with, besides what representations are made with: a trace where one is asked for. */
export interface FileContext extends Negotiation {
  readonly trace: Trace | undefined;
}

/** From a chosen file to what will be sent: its profile, the negotiated representation, preconditions, ranges, plan. */
export async function answerFile(context: FileContext, chosen: ChosenFile): Promise<Decision> {
  // What is known already is not waited for: an answer takes 0.25 µs of 6.7 less.
  const described = describeFile(context.known, chosen, context.nowSeconds);
  const profile = described instanceof Promise ? await described : described;
  if (profile.name?.proof !== undefined) context.files.dependOn(profile.name.proof);
  if (profile.unprotected.length > 0)
    context.trace?.push({ stage: "protection", problems: profile.unprotected });
  if (profile.lastModifiedSeconds === undefined)
    context.trace?.push({ stage: "undated", sealed: chosen.file.metadata.digest !== undefined });
  const selecting = selectRepresentation(context, profile, chosen);
  const selected = selecting instanceof Promise ? await selecting : selecting;
  context.trace?.push({ stage: "representation", coding: selected.coding, because: selected.because });
  const decided = checkPreconditions(context, selected, chosen) ?? planContent(context, selected, chosen);
  return chosen.rules.digests && decided.kind === "response"
    ? addDigests(context, selected, chosen, decided)
    : decided;
}

function checkPreconditions(
  { request, nowSeconds, trace }: FileContext,
  { representation }: Selected,
  { address }: ChosenFile,
): Decision | undefined {
  const verdict = evaluatePreconditions(request.headers, representation, nowSeconds);
  if (verdict.outcome === "proceed") return undefined;
  trace?.push({ stage: "precondition", field: verdict.field, outcome: verdict.outcome });
  if (verdict.outcome === "failed")
    return refuse(412, { code: "precondition-failed", subject: verdict.field });
  const reason: Reason = { code: "not-modified", subject: verdict.field };
  return answerBare(304, representation.notModifiedFields, reason, address);
}

function planContent(context: FileContext, selected: Selected, { address, reason }: ChosenFile): Decision {
  const { representation } = selected;
  const { fields, sizeBytes } = representation;
  // RFC 9110 §14.2: ranges are defined for GET alone.
  if (context.request.method === "HEAD") return answerBare(200, fields, reason, address);
  const range = chooseRange(context, representation);
  if (range?.verdict.outcome === "unsatisfiable")
    return refuse(416, { code: "range-unsatisfiable", subject: range.field }, describeLimits(sizeBytes));
  if (range?.verdict.outcome === "partial") {
    const cut = (offset: number, length: number) => slice(selected, offset, length);
    const partial = planPartial(representation, range.verdict.ranges, cut);
    const body = toBody(selected, partial.parts);
    const why: Reason = { code: "partial", subject: range.field };
    return { kind: "response", status: 206, fields: partial.fields, body, file: address, reason: why };
  }
  const body = toBody(selected, [slice(selected, 0, sizeBytes)]);
  const early = representation.early.length === 0 ? undefined : representation.early;
  return { kind: "response", status: 200, fields, body, file: address, reason, early };
}

// The Range field, where it is to be followed, and what it comes to.
function chooseRange(
  { request: { headers }, nowSeconds, trace }: FileContext,
  { tag, lastModifiedSeconds, sizeBytes }: Representation,
): { readonly field: string; readonly verdict: RangeVerdict } | undefined {
  const field = fieldValue(headers, "range");
  if (field === undefined) return undefined;
  if (!matchesIfRange(fieldValue(headers, "if-range"), tag, lastModifiedSeconds, nowSeconds))
    return undefined;
  const verdict = decideRange(field, sizeBytes);
  trace?.push({ stage: "range", field, outcome: verdict.outcome });
  return { field, verdict };
}

// RFC 9110 §15.5.17: a 416 says how much there is.
function describeLimits(sizeBytes: number): Fields {
  return Fields.of(
    ["Content-Range", `bytes */${sizeBytes}`, "how much there is"],
    ["Accept-Ranges", "bytes", "clients can ask for ranges"],
  );
}

type Parts = Extract<BodyPlan, { kind: "file" }>["parts"];

function toBody({ content }: Selected, parts: Parts): BodyPlan {
  if (content.kind === "file") return { kind: "file", file: content.file, parts };
  const [only] = parts;
  if (parts.length === 1 && only instanceof Uint8Array) return { kind: "bytes", bytes: only };
  return { kind: "bytes", bytes: join(parts as readonly Uint8Array[]) };
}

function join(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

function slice({ content }: Selected, offset: number, length: number): Parts[number] {
  return content.kind === "file" ? { offset, length } : content.bytes.subarray(offset, offset + length);
}
