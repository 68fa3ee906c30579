import type { Answer } from "../core/answer/plan.js";
import { describeReason } from "../core/explain/reason.js";
import type { SiteRequest } from "../core/request/request.js";
import { checkOptions, checkSite } from "../site/arguments.js";
import type { Responder, Site, SiteFileOptions } from "../site/site.js";
import { deliver } from "./deliver.js";
import { cutOff, type Delivery } from "./delivery.js";
import { type NodeRequest, type NodeResponse, type Outgoing, toOutgoing } from "./node-messages.js";
import { readRequest } from "./read-request.js";

/** What became of one request. */
export interface ResponseRecord {
  readonly request: SiteRequest;
  readonly answer: Answer;
  readonly delivery: Delivery;
  /** From the request head to the end of the answer, in milliseconds. */
  readonly milliseconds: number;
  /** Address of the client as the socket knows it. */
  readonly remoteAddress: string | undefined;
  /** Why the answer is what it is, in words for the developer. */
  readonly why: string;
}

export interface NodeHandlerOptions {
  /** Called once for each answer, when it was handed over or its client has gone. */
  readonly onResponse?: (record: ResponseRecord) => void;
}

export type NodeHandler = (
  request: NodeRequest,
  response: NodeResponse,
  next?: (error?: unknown) => void,
) => void;

/**
 * Makes a handler for `http.createServer`, `http2.createSecureServer`, or for a chain of `(req, res, next)` handlers: there it
 * passes on what is not the site's business. Errors while answering end the response; they never reach the caller. Throws a
 * TypeError for what is no site, and for an option that there is not.
 */
export function nodeHandler(site: Site, options: NodeHandlerOptions = {}): NodeHandler {
  checkSite("nodeHandler", site);
  checkOptions("nodeHandler", options, ["onResponse"]);
  return makeHandler(site, options);
}

/**
 * Makes a handler that answers a route with one file of the site, whatever the route's own address is: with the same media
 * type, validators and caching as at the file's address. `path` is that address, not escaped: "/reports/Season report.pdf".
 */
export function fileHandler(
  site: Site,
  path: string,
  options: NodeHandlerOptions & SiteFileOptions = {},
): NodeHandler {
  checkSite("fileHandler", site);
  checkOptions("fileHandler", options, ["onResponse", "saveAs"]);
  return makeHandler(site.file(path, options), options);
}

function makeHandler(responder: Responder, { onResponse }: NodeHandlerOptions): NodeHandler {
  return (incoming, nodeResponse, next) => {
    const response = toOutgoing(nodeResponse);
    const started = onResponse === undefined ? 0 : performance.now();
    const remoteAddress = onResponse === undefined ? undefined : incoming.socket.remoteAddress;
    const request = readRequest(incoming, next !== undefined);
    responder
      .respond(request)
      .then(async (answer) => {
        if (answer.kind === "pass") {
          next!();
          return;
        }
        const delivery = await deliver(response, answer, request, responder);
        if (onResponse === undefined) return;
        await finished(response);
        onResponse({
          request,
          answer,
          delivery:
            delivery.complete && !response.writableFinished
              ? cutOff(delivery.status, delivery.bytes, "client-left")
              : delivery,
          milliseconds: performance.now() - started,
          remoteAddress,
          why: describeReason(answer.reason),
        });
      })
      .catch((error: unknown) => {
        if (next !== undefined && !response.headersSent) next(error);
        else response.destroy(error instanceof Error ? error : undefined);
      });
  };
}

function finished(response: Outgoing): Promise<void> | undefined {
  if (response.writableFinished || response.destroyed) return undefined;
  return new Promise((resolve) => {
    response.once("finish", resolve);
    response.once("close", resolve);
  });
}
