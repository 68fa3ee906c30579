import type { Answer, BodyPart, ResponsePlan } from "../core/answer/plan.js";
import type { Fields } from "../core/fields/fields.js";
import type { SiteRequest } from "../core/request/request.js";
import type { OpenedFile } from "../core/source.js";
import type { Responder } from "../site/site.js";
import { type Delivery, deliverPieces } from "./deliver-pieces.js";
import type { Outgoing } from "./node-messages.js";

/** A body up to this size is read before its head is sent: a failure can still be told, and both go out in one write. */
const WHOLE_UP_TO = 64 * 1024;

/**
 * Carries a plan out on a Node response, under back-pressure. A body that cannot be finished as its head promised ends the
 * connection. Owns the plan's file from the call on, and lets go of it in every case; never rejects.
 */
export async function deliver(
  response: Outgoing,
  plan: ResponsePlan,
  request: SiteRequest,
  responder: Responder,
): Promise<Delivery> {
  const { status, fields, body } = plan;
  if (body.kind !== "file")
    return send(response, status, fields, body.kind === "bytes" ? body.bytes : undefined);
  const { file, parts } = body;
  try {
    const only = findOnlySmall(parts);
    if (only === undefined) return await deliverPieces(response, { ...plan, body }, responder.memory);
    const bytes = await readWhole(file, only);
    if (bytes !== undefined) return send(response, status, fields, bytes);
  } catch {
    // The device failed after the head was sent, or the stream did: there is no honest way to go on.
    response.destroy();
    return { status, bytes: 0, complete: false };
  } finally {
    file.close();
  }
  return deliverFailure(response, request, responder);
}

function findOnlySmall(parts: readonly BodyPart[]): Exclude<BodyPart, Uint8Array> | undefined {
  const [only] = parts;
  return parts.length === 1 && !(only instanceof Uint8Array) && only!.length <= WHOLE_UP_TO
    ? only
    : undefined;
}

// Undefined when the file is shorter than it was, or the device fails.
async function readWhole(
  file: OpenedFile,
  { offset, length }: Exclude<BodyPart, Uint8Array>,
): Promise<Uint8Array | undefined> {
  if (length === 0) return new Uint8Array(0);
  const bytes = await file.read(offset, length).catch(() => undefined);
  return bytes?.length === length ? bytes : undefined;
}

// Nothing was sent yet, so the failure can still be told.
async function deliverFailure(
  response: Outgoing,
  request: SiteRequest,
  responder: Responder,
): Promise<Delivery> {
  const sorry = await responder.respondFailed(request, "it is shorter than a moment ago");
  const bytes = await readBody(sorry);
  if (sorry.kind === "pass" || bytes === undefined) {
    response.destroy();
    return { status: 500, bytes: 0, complete: false };
  }
  return send(response, sorry.status, sorry.fields, bytes);
}

async function readBody(answer: Answer): Promise<Uint8Array | undefined> {
  if (answer.kind === "pass") return undefined;
  const { body } = answer;
  if (body.kind !== "file") return body.kind === "bytes" ? body.bytes : new Uint8Array(0);
  try {
    return await readWhole(body.file, { offset: 0, length: body.file.metadata.sizeBytes });
  } finally {
    body.file.close();
  }
}

function send(response: Outgoing, status: number, fields: Fields, bytes: Uint8Array | undefined): Delivery {
  if (response.destroyed) return { status, bytes: 0, complete: false };
  response.writeHead(status, fields.flat);
  response.end(bytes?.length === 0 ? undefined : bytes);
  return { status, bytes: bytes?.length ?? 0, complete: true };
}
