import type { BodyPart, BodyPlan } from "../core/answer/plan.js";
import type { OpenedFile } from "../core/source.js";
import type { Site, SiteFile, SiteFileOptions } from "../site/open.js";

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
 * its consumer asks for it; cancelling it closes the file.
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

function makeHandler(responder: SiteFile, { mayPass = true }: WebHandlerOptions): WebHandler {
  return async (request) => {
    const { pathname, search } = new URL(request.url);
    const answer = await responder.respond({
      method: request.method,
      target: pathname + search,
      headers: Object.fromEntries(request.headers),
      mayPass,
    });
    if (answer.kind === "pass") return undefined;
    const headers = new Headers();
    for (let i = 0; i < answer.fields.length; i += 2)
      headers.append(answer.fields[i]!, answer.fields[i + 1]!);
    return new Response(toBody(answer.body, request.signal), { status: answer.status, headers });
  };
}

function toBody(body: BodyPlan, signal: AbortSignal): Uint8Array<ArrayBuffer> | ReadableStream | null {
  if (body.kind === "none") return null;
  if (body.kind === "bytes") return body.bytes as Uint8Array<ArrayBuffer>;
  const { file } = body;
  signal.addEventListener("abort", () => file.close(), { once: true });
  return streamParts(file, body.parts);
}

function streamParts(file: OpenedFile, parts: readonly BodyPart[]): ReadableStream<Uint8Array> {
  let index = 0;
  let done = 0;
  return new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        const part = parts[index];
        if (part === undefined || part.length === 0) {
          file.close();
          controller.close();
          return;
        }
        const length = Math.min(PIECE_BYTES, part.length - done);
        const piece =
          part instanceof Uint8Array
            ? part.subarray(done, done + length)
            : await file.read(part.offset + done, length).catch((error: unknown) => {
                file.close();
                throw error;
              });
        if (piece.length !== length) {
          file.close();
          controller.error(new Error("The file became shorter while it was sent."));
          return;
        }
        controller.enqueue(piece);
        done += length;
        if (done === part.length) {
          index++;
          done = 0;
        }
      },
      cancel() {
        file.close();
      },
    },
    { highWaterMark: 0 },
  );
}
