import type { StoreState } from "../../site/site.js";
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
  { metrics, store }: HealthParts = {},
): Health {
  let isReady = true;
  const [alive, ready] = prefix === undefined ? [] : [`${prefix}/alive`, `${prefix}/ready`];
  return {
    handler(request, response, next) {
      const path = request.url?.replace(/\?.*$/s, "");
      if (path === undefined) handler(request, response, next);
      else if (path === alive) say(request, response, true, "alive");
      else if (path === metrics?.path) sayMetrics(request, response, metrics.format());
      else if (path === ready)
        say(request, response, isReady, isReady ? `ready${describeStore(store?.())}` : "stopping");
      else handler(request, response, next);
    },
    stop() {
      isReady = false;
    },
  };
}

/** What is told besides. */
export interface HealthParts {
  readonly metrics?: MetricsAddress | undefined;
  /** How the site stands with its release store; undefined for one without. */
  readonly store?: () => StoreState | undefined;
}

// A store that does not answer is no reason to take the server out: what it knows goes on being served. Strangers may ask, so neither
// its place nor its words are told.
function describeStore(state: StoreState | undefined): string {
  if (state === undefined) return "";
  const { release, failure, counts } = state;
  const said =
    failure === undefined
      ? "the store answers"
      : `the store has not answered for ${Math.round((Date.now() - failure.sinceMs) / 1000)} s: what is known is served, other files are 503`;
  return `\nrelease ${release.number}; ${said}; ${counts.failures} reads failed`;
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
    "Content-Length": String(Buffer.byteLength(body)),
    "Cache-Control": "no-store",
    ...(!isRead && { Allow: "GET, HEAD" }),
  });
  response.end(method === "HEAD" ? "" : body);
}
