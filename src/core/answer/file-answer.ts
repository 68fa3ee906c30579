import type { Reason } from "../explain/reason.js";
import { explainPlain } from "../explain/trace-coding.js";
import { traceOrigins } from "../explain/trace-rules.js";
import { describeFile } from "../represent/profile.js";
import { type Selected, selectRepresentation } from "../represent/representation.js";
import { fieldValue } from "../request/request.js";
import type { ResolutionContext } from "../resolve/candidate.js";
import type { CompiledSite } from "../rules/rules.js";
import type { OpenedFile } from "../source.js";
import { crossOriginErrorFields, crossOriginFields } from "./cross-origin.js";
import { answerBuiltIn } from "./error-answer.js";
import { planPartial } from "./partial.js";
import { type BodyPlan, NO_BODY, type ResponsePlan } from "./plan.js";
import { evaluatePreconditions } from "./preconditions.js";
import { decideRange, matchesIfRange } from "./range.js";

/** A file that answers: its path inside the mount, opened, and why it was chosen. */
export interface ChosenFile {
  readonly path: string;
  readonly file: OpenedFile;
  readonly reason: Reason;
}

/** From a chosen file to what will be sent: its profile, the negotiated representation, preconditions, ranges, plan. */
export async function answerFile(
  site: CompiledSite,
  context: ResolutionContext,
  chosen: ChosenFile,
): Promise<ResponsePlan> {
  const { request, mount, rules, trace } = context;
  const { path, file, reason } = chosen;
  const nowSeconds = Math.floor(site.now() / 1000);
  try {
    const described = describeFile(path, file, rules, nowSeconds);
    const profile = described instanceof Promise ? await described : described;
    const selecting = selectRepresentation(context, profile, path, file, site.compressor);
    const selected = selecting instanceof Promise ? await selecting : selecting;
    trace?.push({
      stage: "representation",
      coding: selected.coding,
      because:
        selected.coding === undefined
          ? explainPlain(request, profile, rules, file.metadata.sizeBytes)
          : "Accept-Encoding wants it most, of those that can be had",
      origins: traceOrigins(rules, path),
    });
    const address = mount.at === "" ? path : `${mount.at}/${path}`;
    const plan = planFile(context, selected, address, reason, nowSeconds);
    return adaptFields(context, plan, reason.code === "app-shell");
  } catch (error) {
    file.close();
    const cause = error instanceof Error ? error.message : String(error);
    return answerBuiltIn(request, 500, { code: "failed", subject: cause });
  }
}

function planFile(
  { request, trace }: ResolutionContext,
  selected: Selected,
  address: string,
  reason: Reason,
  nowSeconds: number,
): ResponsePlan {
  const { representation } = selected;
  const { headers } = request;
  const respond = (status: number, fields: readonly string[], why: Reason): ResponsePlan => {
    letGo(selected);
    return { kind: "response", status, fields, body: NO_BODY, file: address, reason: why };
  };

  const verdict = evaluatePreconditions(headers, representation, nowSeconds);
  if (verdict.outcome !== "proceed") {
    trace?.push({ stage: "precondition", field: verdict.field, outcome: verdict.outcome });
    if (verdict.outcome === "failed") {
      letGo(selected);
      return answerBuiltIn(request, 412, { code: "precondition-failed", subject: verdict.field });
    }
    return respond(304, representation.notModifiedFields, { code: "not-modified", subject: verdict.field });
  }
  // RFC 9110 §14.2: ranges are defined for GET alone.
  if (request.method === "HEAD") return respond(200, representation.fields, reason);

  const range = fieldValue(headers, "range");
  const ifRange = fieldValue(headers, "if-range");
  if (
    range !== undefined &&
    matchesIfRange(ifRange, representation.tag, representation.lastModifiedSeconds, nowSeconds)
  ) {
    const decided = decideRange(range, representation.sizeBytes);
    trace?.push({ stage: "range", field: range, outcome: decided.outcome });
    if (decided.outcome === "unsatisfiable") {
      letGo(selected);
      const limits = ["Content-Range", `bytes */${representation.sizeBytes}`, "Accept-Ranges", "bytes"];
      return answerBuiltIn(request, 416, { code: "range-unsatisfiable", subject: range }, limits);
    }
    if (decided.outcome === "partial") {
      const { fields, parts } = planPartial(representation, decided.ranges, (offset, length) =>
        slice(selected, offset, length),
      );
      const why: Reason = { code: "partial", subject: range };
      return {
        kind: "response",
        status: 206,
        fields,
        body: toBody(selected, parts),
        file: address,
        reason: why,
      };
    }
  }
  const parts = [slice(selected, 0, representation.sizeBytes)];
  return {
    kind: "response",
    status: 200,
    fields: representation.fields,
    body: toBody(selected, parts),
    file: address,
    reason,
  };
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

function letGo({ content }: Selected): void {
  if (content.kind === "file") content.file.close();
}

// What depends on this request alone: the origin that asks, and a shell that must not be kept long under many addresses.
function adaptFields(
  { request, rules }: ResolutionContext,
  plan: ResponsePlan,
  isShell: boolean,
): ResponsePlan {
  // A file's own fields name any origin already; a list is matched for each request, and so is an error's.
  const added =
    plan.status >= 400
      ? crossOriginErrorFields(rules.crossOrigin, request)
      : rules.crossOrigin === "*"
        ? []
        : crossOriginFields(rules.crossOrigin, request);
  if (added.length === 0 && !isShell) return plan;
  return { ...plan, fields: [...(isShell ? revalidated(plan.fields) : plan.fields), ...added] };
}

function revalidated(fields: readonly string[]): readonly string[] {
  const at = fields.indexOf("Cache-Control");
  if (at < 0 || /^no-(?:cache|store)\b/.test(fields[at + 1]!)) return fields;
  const kept = fields.filter((_, i) => !/^CDN-Cache-Control$/.test(fields[i - (i % 2)]!));
  return kept.map((field, i) => (i === kept.indexOf("Cache-Control") + 1 ? "no-cache" : field));
}
