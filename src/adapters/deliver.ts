import type { Answer, BodyPart, ResponsePlan } from "../core/answer/plan.js";
import { Fields } from "../core/fields/fields.js";
import { isNavigation, type SiteRequest } from "../core/request/request.js";
import type { OpenedFile } from "../core/source.js";
import type { Responder } from "../site/site.js";
import { deliverPieces } from "./deliver-pieces.js";
import { cutOff, type Delivery, SHORTENED, toUnsent, type Unsent } from "./delivery.js";
import type { Outgoing } from "./node-messages.js";

/** A body up to this size is read in one piece, and goes out with its head in one write. */
const WHOLE_UP_TO = 64 * 1024;

/** Whom an answer is for, and who plans the error when it cannot be sent. */
export interface DeliveryContext {
  readonly request: SiteRequest;
  readonly responder: Responder;
  /** How long a client may take nothing, in milliseconds. */
  readonly stalledAfterMs: number;
}

/**
 * Carries a plan out on a Node response, under back-pressure. What goes wrong before the first byte is told with a 500; a body
 * that cannot be finished as its head promised ends the connection. Owns the plan's file from the call on, and releases it in
 * every case; never rejects.
 */
export async function deliver(
  response: Outgoing,
  plan: ResponsePlan,
  { request, responder, stalledAfterMs }: DeliveryContext,
): Promise<Delivery> {
  const { status, fields, body, early } = plan;
  if (early !== undefined && isNavigation(request)) response.tellEarly(early);
  if (body.kind === "none") return send(response, status, fields, undefined);
  if (body.kind === "bytes" && body.bytes.length <= WHOLE_UP_TO)
    return send(response, status, fields, body.bytes);
  const { file, parts } = body.kind === "file" ? body : { file: undefined, parts: [body.bytes] };
  let outcome: Delivery | Unsent;
  try {
    const only = findOnlySmall(parts);
    if (only === undefined || file === undefined) {
      const options = { memory: responder.memory, stalledAfterMs };
      outcome = await deliverPieces(response, { status, fields, file, parts }, options);
    } else {
      const bytes = await readWhole(file, only);
      outcome = "unsent" in bytes ? bytes : send(response, status, fields, bytes);
    }
  } catch {
    // The stream failed under what was written.
    response.destroy();
    return cutOff(status, 0, "client-left");
  } finally {
    file?.close();
  }
  return "unsent" in outcome ? deliverFailure(response, request, responder, outcome) : outcome;
}

function findOnlySmall(parts: readonly BodyPart[]): Exclude<BodyPart, Uint8Array> | undefined {
  const [only] = parts;
  return parts.length === 1 && !(only instanceof Uint8Array) && only!.length <= WHOLE_UP_TO
    ? only
    : undefined;
}

async function readWhole(
  file: OpenedFile,
  { offset, length }: Exclude<BodyPart, Uint8Array>,
): Promise<Uint8Array | Unsent> {
  if (length === 0) return new Uint8Array(0);
  try {
    const bytes = await file.read(offset, length);
    return bytes.length === length ? bytes : SHORTENED;
  } catch (error) {
    return toUnsent(error);
  }
}

const BARE = Fields.of(["Content-Length", "0", "the error page cannot be read"]);

async function deliverFailure(
  response: Outgoing,
  request: SiteRequest,
  responder: Responder,
  { unsent, isTemporary }: Unsent,
): Promise<Delivery> {
  const sorry = await responder.respondFailed(request, unsent, isTemporary);
  const bytes = await readBody(sorry);
  // Its own page cannot be read either: nothing was sent yet, so the status can be.
  if (sorry.kind === "pass" || bytes === undefined) return send(response, 500, BARE, undefined);
  return send(response, sorry.status, sorry.fields, bytes);
}

// The bytes of the error's answer; undefined when that cannot be read either.
async function readBody(answer: Answer): Promise<Uint8Array | undefined> {
  if (answer.kind === "pass") return undefined;
  const { body } = answer;
  if (body.kind !== "file") return body.kind === "bytes" ? body.bytes : new Uint8Array(0);
  try {
    const bytes = await readWhole(body.file, { offset: 0, length: body.file.metadata.sizeBytes });
    return "unsent" in bytes ? undefined : bytes;
  } finally {
    body.file.close();
  }
}

function send(response: Outgoing, status: number, fields: Fields, bytes: Uint8Array | undefined): Delivery {
  if (response.destroyed) return cutOff(status, 0, "client-left");
  response.writeHead(status, fields.flat);
  response.end(bytes?.length === 0 ? undefined : bytes);
  return { status, bytes: bytes?.length ?? 0, complete: true };
}
