import type { Fields } from "../core/fields/fields.js";
import type { ReadyPlan } from "../core/keep/kept-answers.js";
import { isNavigation } from "../core/request/request.js";
import type { Keeper } from "../site/keeper.js";
import type { Annotation } from "./annotate.js";
import { LEAST_BYTES_PER_SECOND } from "./deliver-pieces.js";
import { type CutOff, cutOff, type Delivery } from "./delivery.js";
import { readFieldValues, readKey } from "./kept.js";
import { breakOff, type NodeRequest, type NodeResponse, tellEarly } from "./node-messages.js";

/** Told of an answer when it is gone, or its client is. */
export type OnSent = (plan: ReadyPlan, delivery: Delivery) => void;

/** What a request is answered with at once. */
export interface AtOnce {
  readonly keeper: Keeper;
  /** How long a client may take nothing, in milliseconds. */
  readonly stalledAfterMs: number;
  readonly next: (() => void) | undefined;
  /** The client asked over TLS. */
  readonly isSecure: boolean;
  readonly onSent: OnSent | undefined;
  readonly annotation: Annotation | undefined;
}

/**
 * Answers a request with what is kept for it, before anything else is done: the hot path. Nothing is waited for and no promise
 * made. False when there is nothing for it, or when its response is behind others on its connection.
 */
export function answerAtOnce(
  request: NodeRequest,
  response: NodeResponse,
  { keeper, stalledAfterMs, next, isSecure, onSent, annotation }: AtOnce,
): boolean {
  if (response.socket === null || response.headersSent) return false;
  const key = readKey(request, next !== undefined, isSecure);
  if (key === undefined) return false;
  const values = readFieldValues(request);
  if (values === undefined) return false;
  const answer = keeper.recall(key, values);
  if (answer === undefined) return false;
  if (answer.kind === "pass") {
    next!();
    return true;
  }
  const { body, early } = answer;
  if (early !== undefined && "stream" in response && isNavigation(request)) tellEarly(response, early);
  // Apart: a function that sends both is compiled again for each.
  const watched =
    body.kind === "bytes" && body.bytes.length > 0
      ? sendBytes(response, answer, body.bytes, { stalledAfterMs, annotation })
      : sendHead(response, answer, annotation);
  if (onSent !== undefined) whenClosed(response, () => tell(onSent, response, answer, watched));
  return true;
}

function sendBytes(
  response: NodeResponse,
  { status, fields }: ReadyPlan,
  bytes: Uint8Array,
  { stalledAfterMs, annotation }: Pick<AtOnce, "stalledAfterMs" | "annotation">,
): Watched {
  response.writeHead(status, flatten(fields, annotation) as never);
  response.end(bytes);
  // What the system took at once needs no watch.
  return response.writableLength > 0 ? watch(response, bytes.length, stalledAfterMs) : NEVER_STALLS;
}

function sendHead(
  response: NodeResponse,
  { status, fields }: ReadyPlan,
  annotation: Annotation | undefined,
): Watched {
  response.writeHead(status, flatten(fields, annotation) as never);
  response.end();
  return NEVER_STALLS;
}

function flatten({ flat }: Fields, annotation: Annotation | undefined): readonly string[] {
  return annotation === undefined ? flat : [...flat, ...annotation.fields()];
}

interface Watched {
  readonly cause: CutOff;
}

const NEVER_STALLS: Watched = { cause: "client-left" };

// A client that takes nothing, or next to nothing, is cut off.
function watch(response: NodeResponse, length: number, stalledAfterMs: number): Watched {
  const watched: { cause: CutOff } = { cause: "client-left" };
  const cut = (): void => {
    watched.cause = "client-stalled";
    breakOff(response);
  };
  response.setTimeout(stalledAfterMs, cut);
  const limit = setTimeout(cut, Math.max(stalledAfterMs, (length / LEAST_BYTES_PER_SECOND) * 1000));
  limit.unref();
  whenClosed(response, () => clearTimeout(limit));
  return watched;
}

// What the application's listener throws ends this response, if anything of it is left, and never the server.
function tell(onSent: OnSent, response: NodeResponse, plan: ReadyPlan, watched: Watched): void {
  try {
    onSent(plan, toDelivery(response, plan, watched));
  } catch (error) {
    breakOff(response, error instanceof Error ? error : undefined);
  }
}

function toDelivery(response: NodeResponse, { status, body }: ReadyPlan, { cause }: Watched): Delivery {
  const bytes = body.kind === "bytes" ? body.bytes.length : 0;
  const isWhole =
    "stream" in response
      ? response.stream.writableFinished && response.stream.rstCode === 0
      : response.writableFinished;
  return isWhole ? { status, bytes, complete: true } : cutOff(status, bytes, cause);
}

function whenClosed(response: NodeResponse, listener: () => void): void {
  if ("stream" in response) response.stream.once("close", listener);
  else response.once("close", listener);
}
