import type { ReadyPlan } from "../core/keep/kept-answers.js";
import type { Keeper } from "../site/keeper.js";
import { LEAST_BYTES_PER_SECOND } from "./deliver-pieces.js";
import { type CutOff, cutOff, type Delivery } from "./delivery.js";
import { readFieldValues, readKey } from "./kept.js";
import { breakOff, type NodeRequest, type NodeResponse } from "./node-messages.js";

/** Told of an answer when it is gone, or its client is. */
export type OnSent = (plan: ReadyPlan, delivery: Delivery) => void;

/** What a request is answered with at once. */
export interface AtOnce {
  readonly keeper: Keeper;
  /** How long a client may take nothing, in milliseconds. */
  readonly stalledAfterMs: number;
  readonly next: (() => void) | undefined;
  readonly onSent: OnSent | undefined;
}

/**
 * Answers a request with what is kept for it, before anything else is done: the hot path. Nothing is waited for and no promise
 * made. False when there is nothing for it, or when its response stands behind others on its connection.
 */
export function answerAtOnce(
  request: NodeRequest,
  response: NodeResponse,
  { keeper, stalledAfterMs, next, onSent }: AtOnce,
): boolean {
  if (response.socket === null || response.headersSent) return false;
  const key = readKey(request, next !== undefined);
  if (key === undefined) return false;
  const values = readFieldValues(request);
  if (values === undefined) return false;
  const answer = keeper.recall(key, values);
  if (answer === undefined) return false;
  if (answer.kind === "pass") {
    next!();
    return true;
  }
  const { body } = answer;
  response.writeHead(answer.status, answer.fields.flat as never);
  if (body.kind === "bytes" && body.bytes.length > 0) response.end(body.bytes);
  else response.end();
  const length = body.kind === "bytes" ? body.bytes.length : 0;
  // What the system took at once needs no watch.
  const isOnItsWay = length > 0 && response.writableLength > 0;
  if (isOnItsWay || onSent !== undefined) watch(response, answer, { length, stalledAfterMs, onSent });
  return true;
}

interface Watched {
  readonly length: number;
  readonly stalledAfterMs: number;
  readonly onSent: OnSent | undefined;
}

// A client that takes nothing, or next to nothing, is cut off.
function watch(response: NodeResponse, plan: ReadyPlan, { length, stalledAfterMs, onSent }: Watched): void {
  let cause: CutOff = "client-left";
  const cut = (): void => {
    cause = "client-stalled";
    breakOff(response);
  };
  response.setTimeout(stalledAfterMs, cut);
  const limit = setTimeout(cut, Math.max(stalledAfterMs, (length / LEAST_BYTES_PER_SECOND) * 1000));
  limit.unref();
  const watched = "stream" in response ? response.stream : response;
  watched.once("close", () => {
    clearTimeout(limit);
    const isWhole = watched.writableFinished && !("rstCode" in watched && watched.rstCode !== 0);
    onSent?.(
      plan,
      isWhole ? { status: plan.status, bytes: length, complete: true } : cutOff(plan.status, length, cause),
    );
  });
}
