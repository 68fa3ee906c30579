import type { Reason } from "../explain/reason.js";
import type { Trace } from "../explain/trace.js";
import { Fields } from "../fields/fields.js";
import type { Described } from "../represent/known-files.js";
import { describeFile } from "../represent/profile.js";
import { type Negotiation, type Selected, selectRepresentation } from "../represent/representation.js";
import { fieldValue, type SiteRequest } from "../request/request.js";
import { planPartial } from "./partial.js";
import { answerBare, type BodyPlan, type Decision, refuse } from "./plan.js";
import { evaluatePreconditions } from "./preconditions.js";
import { decideRange, matchesIfRange } from "./range.js";

/** A file that answers: what it is sent as, its address under the mount's prefix, and why it was chosen. */
export interface ChosenFile extends Described {
  readonly address: string;
  readonly reason: Reason;
}

/** From a chosen file to what will be sent: its profile, the negotiated representation, preconditions, ranges, plan. */
export async function answerFile(
  negotiation: Negotiation,
  chosen: ChosenFile,
  request: SiteRequest,
  nowSeconds: number,
  trace: Trace | undefined,
): Promise<Decision> {
  const described = describeFile(negotiation.known, chosen, nowSeconds);
  const profile = described instanceof Promise ? await described : described;
  const selecting = selectRepresentation(negotiation, profile, chosen);
  const selected = selecting instanceof Promise ? await selecting : selecting;
  trace?.push({ stage: "representation", coding: selected.coding, because: selected.because });
  return (
    checkPreconditions(selected, chosen, request, nowSeconds, trace) ??
    planContent(selected, chosen, request, nowSeconds, trace)
  );
}

function checkPreconditions(
  { representation }: Selected,
  { address }: ChosenFile,
  { headers }: SiteRequest,
  nowSeconds: number,
  trace: Trace | undefined,
): Decision | undefined {
  const verdict = evaluatePreconditions(headers, representation, nowSeconds);
  if (verdict.outcome === "proceed") return undefined;
  trace?.push({ stage: "precondition", field: verdict.field, outcome: verdict.outcome });
  if (verdict.outcome === "failed")
    return refuse(412, { code: "precondition-failed", subject: verdict.field });
  const reason: Reason = { code: "not-modified", subject: verdict.field };
  return answerBare(304, representation.notModifiedFields, reason, address);
}

function planContent(
  selected: Selected,
  { address, reason }: ChosenFile,
  { method, headers }: SiteRequest,
  nowSeconds: number,
  trace: Trace | undefined,
): Decision {
  const { representation } = selected;
  const { tag, lastModifiedSeconds, sizeBytes, fields } = representation;
  // RFC 9110 §14.2: ranges are defined for GET alone.
  if (method === "HEAD") return answerBare(200, fields, reason, address);

  const range = fieldValue(headers, "range");
  if (
    range !== undefined &&
    matchesIfRange(fieldValue(headers, "if-range"), tag, lastModifiedSeconds, nowSeconds)
  ) {
    const decided = decideRange(range, sizeBytes);
    trace?.push({ stage: "range", field: range, outcome: decided.outcome });
    if (decided.outcome === "unsatisfiable")
      return refuse(416, { code: "range-unsatisfiable", subject: range }, describeLimits(sizeBytes));
    if (decided.outcome === "partial") {
      const cut = (offset: number, length: number) => slice(selected, offset, length);
      const partial = planPartial(representation, decided.ranges, cut);
      const body = toBody(selected, partial.parts);
      const why: Reason = { code: "partial", subject: range };
      return { kind: "response", status: 206, fields: partial.fields, body, file: address, reason: why };
    }
  }
  const body = toBody(selected, [slice(selected, 0, sizeBytes)]);
  return { kind: "response", status: 200, fields, body, file: address, reason };
}

// RFC 9110 §15.5.17: a 416 says how much there is.
function describeLimits(sizeBytes: number): Fields {
  return Fields.of(
    ["Content-Range", `bytes */${sizeBytes}`, "how much there is"],
    ["Accept-Ranges", "bytes", "parts of a file can be asked for"],
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
