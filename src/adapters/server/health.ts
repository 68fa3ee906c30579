import type { NodeHandler } from "../node-handler.js";
import type { NodeRequest, NodeResponse } from "../node-messages.js";

/** Answers whether the process is alive, and whether it wants requests, before anything else is asked. */
export interface Health {
  readonly handler: NodeHandler;
  /** From now on it is alive, and not ready. */
  stop(): void;
}

/**
 * Puts two addresses before a handler: `PREFIX/alive` answers 200 as long as the process answers at all, and `PREFIX/ready` 200 until
 * stopping begins, then 503. Everything else is the handler's.
 */
export function withHealth(prefix: string, handler: NodeHandler): Health {
  let isReady = true;
  const [alive, ready] = [`${prefix}/alive`, `${prefix}/ready`];
  return {
    handler(request, response, next) {
      const path = request.url?.replace(/\?.*$/s, "");
      if (path === alive) say(request, response, true, "alive");
      else if (path === ready) say(request, response, isReady, isReady ? "ready" : "stopping");
      else handler(request, response, next);
    },
    stop() {
      isReady = false;
    },
  };
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
