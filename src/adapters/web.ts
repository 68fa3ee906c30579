import { type Answer, type BodyPart, releasePlan } from "../core/answer/plan.js";
import type { OpenedFile } from "../core/source.js";
import type { Responder, Site, SiteFileOptions } from "../site/site.js";

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
  return makeHandler(site, options);
}

/** Makes a Fetch handler that answers with one file of the site, whatever the request's address is. */
export function webFileHandler(
  site: Site,
  path: string,
  options: WebHandlerOptions & SiteFileOptions = {},
): WebHandler {
  return makeHandler(site.file(path, options), options);
}

function makeHandler(responder: Responder, { mayPass = true }: WebHandlerOptions): WebHandler {
  return async (request) => {
    const { signal } = request;
    const { pathname, search } = new URL(request.url);
    const answer = await responder.respond({
      method: request.method,
      target: pathname + search,
      headers: Object.fromEntries(request.headers),
      mayPass,
    });
    if (answer.kind === "pass") return undefined;
    if (signal.aborted) {
      releasePlan(answer);
      throw signal.reason;
    }
    const headers = new Headers();
    for (const { name, value } of answer.fields) headers.append(name, value);
    return new Response(toBody(answer, signal), { status: answer.status, headers });
  };
}

function toBody(
  { body }: Extract<Answer, { kind: "response" }>,
  signal: AbortSignal,
): Uint8Array<ArrayBuffer> | ReadableStream | null {
  if (body.kind === "none") return null;
  if (body.kind === "bytes") return body.bytes as Uint8Array<ArrayBuffer>;
  return streamParts(body.file, body.parts, signal);
}

// Owns the file: it is closed once, when the body was read to its end, cancelled, aborted, or cannot be read.
function streamParts(
  file: OpenedFile,
  parts: readonly BodyPart[],
  signal: AbortSignal,
): ReadableStream<Uint8Array> {
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
  return new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        try {
          const piece = await readNext();
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
