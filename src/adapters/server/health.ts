import { METRICS_TYPE } from "../metrics.js";
import type { NodeHandler } from "../node-handler.js";
import type { NodeRequest, NodeResponse } from "../node-messages.js";

/** Answers whether the process is alive, and whether it wants requests, before anything else is asked. */
export interface Health {
  readonly handler: NodeHandler;
  /** From now on it is alive, and not ready. */
  stop(): void;
}

/**
 * Puts two addresses before a handler: `PREFIX/alive` answers 200 while the process answers at all, and `PREFIX/ready` 200 until
 * stopping begins, then 503. Everything else is the handler's.
 */
export function withHealth(
  prefix: string | undefined,
  handler: NodeHandler,
  metrics?: MetricsAddress,
): Health {
  let isReady = true;
  const [alive, ready] = prefix === undefined ? [] : [`${prefix}/alive`, `${prefix}/ready`];
  return {
    handler(request, response, next) {
      const path = request.url?.replace(/\?.*$/s, "");
      if (path === undefined) handler(request, response, next);
      else if (path === alive) say(request, response, true, "alive");
      else if (path === metrics?.path) sayMetrics(request, response, metrics.format());
      else if (path === ready) say(request, response, isReady, isReady ? "ready" : "stopping");
      else handler(request, response, next);
    },
    stop() {
      isReady = false;
    },
  };
}

/** Where metrics are told, and what they are just now. */
export interface MetricsAddress {
  readonly path: string;
  readonly format: () => string;
}

/** Answers with metrics, whatever else is asked. */
export function sayMetrics({ method }: NodeRequest, response: NodeResponse, text: string): void {
  (response as import("node:http").ServerResponse).writeHead(200, {
    "Content-Type": METRICS_TYPE,
    "Content-Length": String(Buffer.byteLength(text)),
    "Cache-Control": "no-store",
  });
  response.end(method === "HEAD" ? "" : text);
}

function say({ method }: NodeRequest, response: NodeResponse, isWell: boolean, word: string): void {
  const isRead = method === "GET" || method === "HEAD";
  const body = isRead ? `${word}\n` : "";
  (response as import("node:http").ServerResponse).writeHead(isRead ? (isWell ? 200 : 503) : 405, {
    "Content-Type": "text/plain; charset=utf-8",
    "Content-Length": String(body.length),
    "Cache-Control": "no-store",
    ...(!isRead && { Allow: "GET, HEAD" }),
  });
  response.end(method === "HEAD" ? "" : body);
}
