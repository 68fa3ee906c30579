import type { ServerResponse } from "node:http";
import { answerBuiltIn } from "../core/answer/error-answer.js";
import type { BodyPart, ResponsePlan } from "../core/answer/plan.js";
import type { SiteRequest } from "../core/request/request.js";
import type { OpenedFile } from "../core/source.js";
import { type Delivery, deliverPieces } from "./deliver-pieces.js";

/** A body up to this size is read before its head is sent: a failure can still be told, and both go out in one write. */
const WHOLE_UP_TO = 64 * 1024;

/**
 * Carries a plan out on a Node response, under back-pressure. A body that cannot be finished as its head promised ends the
 * connection. Lets go of the file in every case; never rejects.
 */
export async function deliver(
  response: ServerResponse,
  plan: ResponsePlan,
  request: SiteRequest,
): Promise<Delivery> {
  const { body } = plan;
  if (body.kind !== "file") {
    const bytes = body.kind === "bytes" ? body.bytes : undefined;
    return send(response, plan.status, plan.fields, bytes);
  }
  const { file, parts } = body;
  const [only] = parts;
  try {
    if (parts.length === 1 && !(only instanceof Uint8Array) && only!.length <= WHOLE_UP_TO) {
      return await deliverWhole(response, plan, request, file, only!);
    }
    return await deliverPieces(response, plan, file, parts);
  } catch {
    // The device failed after the head was sent, or the stream did: there is no honest way to go on.
    response.destroy();
    return { status: plan.status, bytes: 0, complete: false };
  } finally {
    file.close();
  }
}

async function deliverWhole(
  response: ServerResponse,
  plan: ResponsePlan,
  request: SiteRequest,
  file: OpenedFile,
  { offset, length }: Exclude<BodyPart, Uint8Array>,
): Promise<Delivery> {
  if (length === 0) return send(response, plan.status, plan.fields, undefined);
  const bytes = await file.read(offset, length).catch(() => undefined);
  if (bytes?.length === length) return send(response, plan.status, plan.fields, bytes);
  // Nothing was sent yet, so the failure can still be told.
  const sorry = answerBuiltIn(request, 500, { code: "failed", subject: "it is shorter than a moment ago" });
  return send(
    response,
    sorry.status,
    sorry.fields,
    sorry.body.kind === "bytes" ? sorry.body.bytes : undefined,
  );
}

function send(
  response: ServerResponse,
  status: number,
  fields: readonly string[],
  bytes: Uint8Array | undefined,
): Delivery {
  if (response.destroyed) return { status, bytes: 0, complete: false };
  response.writeHead(status, fields as string[]);
  response.end(bytes);
  return { status, bytes: bytes?.length ?? 0, complete: true };
}
