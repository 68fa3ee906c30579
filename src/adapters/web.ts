import { type BodyPart, type ResponsePlan, releasePlan } from "../core/answer/plan.js";
import { Fields } from "../core/fields/fields.js";
import type { OpenedFile } from "../core/source.js";
import { checkOptions, checkSite } from "../site/arguments.js";
import type { Responder, Site, SiteFileOptions } from "../site/site.js";
import { toUnsent, type Unsent } from "./delivery.js";
import { readPlan } from "./in-process.js";

/** What is read of a file at a time, in bytes. */
const PIECE_BYTES = 64 * 1024;

export interface WebHandlerOptions {
  /** True when the caller has another answer for what the site passes on (default true). */
  readonly mayPass?: boolean;
}

/** Undefined stands for what is not the site's business. */
export type WebHandler = (request: Request) => Promise<Response | undefined>;

/**
 * Makes a Fetch handler: a Request in, a Response out, or undefined for what is not the site's business. A body is read as
 * its consumer asks for it; cancelling it, or aborting the request, closes the file. Rejects with the signal's reason when the
 * request was aborted before its answer.
 */
export function webHandler(site: Site, options: WebHandlerOptions = {}): WebHandler {
  checkSite("webHandler", site);
  checkOptions("webHandler", options, ["mayPass"]);
  return makeHandler(site, options);
}

/** Makes a Fetch handler that answers with one file of the site, whatever the request's address is. */
export function webFileHandler(
  site: Site,
  path: string,
  options: WebHandlerOptions & SiteFileOptions = {},
): WebHandler {
  checkSite("webFileHandler", site);
  checkOptions("webFileHandler", options, ["mayPass", "saveAs"]);
  return makeHandler(site.file(path, options), options);
}

function makeHandler(responder: Responder, { mayPass = true }: WebHandlerOptions): WebHandler {
  return async (request) => {
    const { signal } = request;
    const { pathname, search } = new URL(request.url);
    const asked = {
      method: request.method,
      target: pathname + search,
      headers: Object.fromEntries(request.headers),
      mayPass,
    };
    const answer = await responder.respond(asked);
    if (answer.kind === "pass") return undefined;
    if (signal.aborted) {
      releasePlan(answer);
      throw signal.reason;
    }
    if (answer.body.kind !== "file")
      return toResponse(answer, answer.body.kind === "bytes" ? answer.body.bytes : null);
    const stream = await streamParts(answer.body.file, answer.body.parts, signal);
    if (signal.aborted) throw signal.reason;
    if (!("unsent" in stream)) return toResponse(answer, stream);
    const sorry = await responder.respondFailed(asked, stream.unsent);
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

// Owns the file: it is closed once, when the body was read to its end, cancelled, aborted, or cannot be read. The first piece is
// read at once, so that a failure can still be told; the others as they are asked for.
async function streamParts(
  file: OpenedFile,
  parts: readonly BodyPart[],
  signal: AbortSignal,
): Promise<ReadableStream<Uint8Array> | Uint8Array | Unsent> {
  let index = 0;
  let done = 0;
  let open = true;
  const letGo = (): void => {
    if (!open) return;
    open = false;
    signal.removeEventListener("abort", letGo);
    file.close();
  };
  signal.addEventListener("abort", letGo);

  const readNext = async (): Promise<Uint8Array | undefined> => {
    const part = parts[index];
    if (part === undefined || part.length === 0) return undefined;
    const length = Math.min(PIECE_BYTES, part.length - done);
    const piece =
      part instanceof Uint8Array
        ? part.subarray(done, done + length)
        : await file.read(part.offset + done, length);
    if (piece.length !== length) throw new Error("The file became shorter while it was sent.");
    done += length;
    if (done === part.length) [index, done] = [index + 1, 0];
    return piece;
  };
  let first: Uint8Array | undefined;
  try {
    first = await readNext();
  } catch (error) {
    letGo();
    return toUnsent(error);
  }
  if (first === undefined || parts[index] === undefined) {
    letGo();
    return first ?? new Uint8Array(0);
  }
  return new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        try {
          const piece = first ?? (await readNext());
          first = undefined;
          if (piece !== undefined) {
            controller.enqueue(piece);
            return;
          }
          letGo();
          controller.close();
        } catch (error) {
          letGo();
          throw error;
        }
      },
      cancel: letGo,
    },
    { highWaterMark: 0 },
  );
}
