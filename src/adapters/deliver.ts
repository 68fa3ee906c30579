import type { IncomingMessage, ServerResponse } from "node:http";
import { answerBuiltIn } from "../core/error-answer.js";
import type { BodyPart, ResponsePlan } from "../core/plan.js";
import type { SiteRequest } from "../core/request.js";
import type { OpenedFile } from "../core/source.js";

/** How an answer ended: the bytes of the body that were handed over, and whether it was sent to its end. */
export interface Delivery {
  readonly status: number;
  readonly bytes: number;
  readonly complete: boolean;
}

/** A body up to this size is read before its head is sent, and both go out in one write. */
const WHOLE_UP_TO = 256 * 1024;
/** What is read at a time of a larger one; one such piece is read ahead of the one being sent. */
const PIECE_BYTES = 512 * 1024;

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

async function deliverPieces(
  response: ServerResponse,
  plan: ResponsePlan,
  file: OpenedFile,
  parts: readonly BodyPart[],
): Promise<Delivery> {
  const { status } = plan;
  let bytes = 0;
  if (response.destroyed) return { status, bytes, complete: false };
  response.writeHead(status, plan.fields as string[]);

  const pieces = cutPieces(parts);
  let ahead = readPiece(file, pieces[0]);
  for (let index = 0; index < pieces.length; index++) {
    const piece = await ahead;
    if (response.destroyed) return { status, bytes, complete: false };
    if (piece.length !== pieces[index]!.length) {
      response.destroy();
      return { status, bytes, complete: false };
    }
    ahead = readPiece(file, pieces[index + 1]);
    // The next read's failure is met when its turn comes.
    ahead.catch(() => {});
    bytes += piece.length;
    if (!response.write(piece)) await drained(response);
  }
  response.end();
  return { status, bytes, complete: !response.destroyed };
}

function cutPieces(parts: readonly BodyPart[]): BodyPart[] {
  return parts.flatMap((part) => {
    if (part instanceof Uint8Array) return [part];
    const pieces: BodyPart[] = [];
    for (let done = 0; done < part.length; done += PIECE_BYTES) {
      pieces.push({ offset: part.offset + done, length: Math.min(PIECE_BYTES, part.length - done) });
    }
    return pieces;
  });
}

async function readPiece(file: OpenedFile, piece: BodyPart | undefined): Promise<Uint8Array> {
  if (piece === undefined || piece instanceof Uint8Array) return piece ?? new Uint8Array(0);
  return file.read(piece.offset, piece.length);
}

function drained(response: ServerResponse): Promise<void> {
  return new Promise((resolve) => {
    const done = (): void => {
      response.off("drain", done);
      response.off("close", done);
      response.off("error", done);
      resolve();
    };
    response.once("drain", done);
    response.once("close", done);
    response.once("error", done);
  });
}

/** The request head as the core takes it. */
export function readRequest(request: IncomingMessage, mayPass: boolean): SiteRequest {
  const { url = "", originalUrl } = request as IncomingMessage & { originalUrl?: string };
  const target = originalUrl ?? url;
  return {
    method: request.method ?? "GET",
    target,
    headers: request.headers,
    strippedPrefix:
      originalUrl === undefined || originalUrl === url ? undefined : findPrefix(originalUrl, url),
    mayPass,
  };
}

// A host that mounts handlers under a prefix leaves the whole target in `originalUrl` and the rest in `url`.
function findPrefix(original: string, rest: string): string | undefined {
  if (original.endsWith(rest)) return original.slice(0, original.length - rest.length) || undefined;
  // A target that is the prefix alone: the host adds the slash that was not there.
  const bare = rest.replace(/^\//, "");
  return original.endsWith(bare) ? original.slice(0, original.length - bare.length) || undefined : undefined;
}
