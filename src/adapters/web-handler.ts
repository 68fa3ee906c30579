import { type ResponsePlan, releasePlan } from "../core/answer/plan.js";
import { Fields } from "../core/fields/fields.js";
import type { Responder } from "../site/site.js";
import { STALLED_SECONDS } from "./delivery.js";
import { readPlan } from "./in-process.js";
import { toWebBody } from "./web-body.js";

/** How a Fetch handler answers. */
export interface WebHandlerOptions {
  /** True when the caller has another answer for what the site passes on (default true). */
  readonly mayPass?: boolean;
  /** For how long a consumer may ask for nothing of a body before its file is closed, in seconds (default 30). */
  readonly stalledAfterSeconds?: number;
}

/** Returns undefined if the site does not answer. */
export type WebHandler = (request: Request) => Promise<Response | undefined>;

/** Carries out what a site plans: a Request in, a Response out. */
export function makeWebHandler(
  responder: Responder,
  { mayPass = true, stalledAfterSeconds = STALLED_SECONDS }: WebHandlerOptions = {},
): WebHandler {
  const stalledAfterMs = stalledAfterSeconds * 1000;
  return async (request) => {
    if (typeof request.headers?.get !== "function")
      throw new TypeError("webHandler: this is no Request; for one of node:http write nodeHandler.");
    const { signal } = request;
    const { pathname, search, protocol } = new URL(request.url);
    const asked = {
      method: request.method,
      target: pathname + search,
      headers: Object.fromEntries(request.headers),
      mayPass,
      isSecure: protocol === "https:",
    };
    const answer = await responder.respond(asked);
    if (answer.kind === "pass") return undefined;
    if (signal.aborted) {
      releasePlan(answer);
      throw signal.reason;
    }
    if (answer.body.kind !== "file")
      return toResponse(answer, answer.body.kind === "bytes" ? answer.body.bytes : null);
    const body = await toWebBody(answer.body.file, answer.body.parts, { signal, stalledAfterMs });
    if (signal.aborted) throw signal.reason;
    if (!("unsent" in body)) return toResponse(answer, body);
    const sorry = await responder.respondFailed(asked, body.unsent, body.isTemporary);
    if (sorry.kind === "pass") return undefined;
    const bytes = await readPlan(sorry).catch(() => null);
    return toResponse(bytes === null ? { ...sorry, fields: Fields.NONE } : sorry, bytes);
  };
}

function toResponse(
  { status, fields }: ResponsePlan,
  body: Uint8Array | ReadableStream<Uint8Array> | null,
): Response {
  const headers = new Headers();
  for (const { name, value } of fields) headers.append(name, value);
  return new Response(body as Uint8Array<ArrayBuffer> | ReadableStream | null, { status, headers });
}
