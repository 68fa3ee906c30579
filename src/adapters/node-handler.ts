import { describeReason } from "../core/explain/reason.js";
import type { RequestHeaders } from "../core/request/request.js";
import { checkOptions, checkSite } from "../site/arguments.js";
import { type Keeper, keeperOf } from "../site/keeper.js";
import { emitWarning } from "../site/platform.js";
import type { Responder, Site, SiteFileOptions } from "../site/site.js";
import { type AnnotateOptions, type Annotation, makeAnnotator } from "./annotate.js";
import { answerAtOnce, type OnSent } from "./answer-at-once.js";
import {
  type Client,
  isEncrypted,
  makeClientReader,
  type Peer,
  type Proxies,
  type ProxyField,
  readPeer,
} from "./client.js";
import { deliver } from "./deliver.js";
import { cutOff, STALLED_SECONDS } from "./delivery.js";
import { readKey } from "./kept.js";
import { type Logging, startLog } from "./log/start-log.js";
import {
  breakOff,
  findLine,
  type NodeRequest,
  type NodeResponse,
  type Outgoing,
  toOutgoing,
} from "./node-messages.js";
import { readRequest } from "./read-request.js";
import type { ResponseRecord } from "./response-record.js";
import { type Turn, takeTurn } from "./turns.js";

/** How a Node handler answers. */
export interface NodeHandlerOptions extends AnnotateOptions {
  /**
   * Logs each answer: `"pretty"` (for people), `"common"`, `"combined"`, `"extended"` or `"json"`, to standard output; or an object that names a
   * `file`, too.
   */
  readonly log?: Logging;
  /** Called once for each answer, when it was handed over or its client disconnected. */
  readonly onResponse?: (record: ResponseRecord) => void;
  /**
   * Which proxies stand before the server: how many, or their addresses and networks. What they say of the client in `proxyField` is
   * believed, and what strangers say is not (default 0). It is for `onResponse`, and for `requestIds`.
   */
  readonly proxies?: Proxies;
  /**
   * The field that your proxies write: `X-Forwarded-For` with `-Proto` and `-Host` (default), or `Forwarded` (RFC 7239). The other one is
   * ignored: a proxy passes it on as a stranger wrote it.
   */
  readonly proxyField?: ProxyField;
  /** How long a client may take nothing of an answer before it is cut off, in seconds (default 30). */
  readonly stalledAfterSeconds?: number;
}

/** A handler of requests, with or without `next`. Without it, the site answers every request. */
export type NodeHandler = (
  request: NodeRequest,
  response: NodeResponse,
  next?: (error?: unknown) => void,
) => void;

/**
 * Makes a handler for `http.createServer`, `http2.createSecureServer`, or for a chain of `(req, res, next)` handlers: there it
 * calls `next` if the site does not answer. Errors while answering end the response; they never reach the caller. Throws a
 * TypeError if `site` is not a site, or for an unknown option.
 */
export function nodeHandler(site: Site, options: NodeHandlerOptions = {}): NodeHandler {
  checkSite("nodeHandler", site);
  checkOptions("nodeHandler", options, HANDLER_OPTIONS);
  return makeHandler(site, withLog("nodeHandler", options, site));
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
  checkOptions("fileHandler", options, [...HANDLER_OPTIONS, "saveAs"]);
  return makeHandler(site.file(path, options), withLog("fileHandler", options, site));
}

/** The names of the options. */
export const HANDLER_OPTIONS = [
  "log",
  "onResponse",
  "proxies",
  "proxyField",
  "requestIds",
  "serverTiming",
  "stalledAfterSeconds",
];

function withLog(call: string, options: NodeHandlerOptions, site: Site): NodeHandlerOptions {
  if (options.log === undefined) return options;
  const { log, ...rest } = options;
  const { write, opened } = startLog(call, log, site);
  // A handler is made without waiting: what cannot be opened is told by the process.
  opened.catch((error: Error) => emitWarning(error.message));
  return { ...rest, onResponse: both(write, rest.onResponse) };
}

/** Tells two of each answer. */
export function both<Value>(
  first: ((value: Value) => void) | undefined,
  second: ((value: Value) => void) | undefined,
): ((value: Value) => void) | undefined {
  if (first === undefined || second === undefined) return first ?? second;
  return (value) => {
    first(value);
    second(value);
  };
}

function makeHandler(responder: Responder, options: NodeHandlerOptions): NodeHandler {
  const keeper = keeperOf(responder);
  const { onResponse, proxies, proxyField, stalledAfterSeconds = STALLED_SECONDS } = options;
  const readClient = makeClientReader(proxies, proxyField);
  const annotate = makeAnnotator(options);
  const isOverTls = makeTlsReader(proxies, readClient);
  const stalledAfterMs = stalledAfterSeconds * 1000;
  return (incoming, response, next) => {
    const arrived = onResponse === undefined ? 0 : performance.now();
    // A socket that was closed knows its peer no more.
    const peer = onResponse === undefined && annotate === undefined ? undefined : readPeer(incoming.socket);
    const annotation = annotate?.(incoming.headers, peer!);
    const isSecure = isOverTls(incoming);
    if (keeper !== undefined) {
      const onSent =
        onResponse === undefined
          ? undefined
          : recordOf(incoming, next !== undefined, {
              onResponse,
              readClient,
              arrived,
              peer,
              isSecure,
              annotation,
            });
      try {
        if (answerAtOnce(incoming, response, { keeper, stalledAfterMs, next, isSecure, onSent, annotation }))
          return;
      } catch (error) {
        hand(error, response, next);
        return;
      }
    }
    takeTurn(findLine(incoming, response), { request: incoming, isTold: onResponse !== undefined }, (turn) =>
      answer({ responder, keeper, readClient }, options, {
        incoming,
        response,
        next,
        turn,
        arrived,
        peer,
        isSecure,
        annotation,
      }),
    );
  };
}

// Behind a proxy, what that one says counts; without, the connection itself is asked.
function makeTlsReader(
  proxies: Proxies | undefined,
  readClient: Recording["readClient"],
): (request: NodeRequest) => boolean {
  if (proxies === undefined || proxies === 0) return ({ socket }) => isEncrypted(socket);
  return (request) =>
    isEncrypted(request.socket) || readClient(request.headers, readPeer(request.socket)).scheme === "https";
}

// What is told of an answer that was sent at once.
function recordOf(
  incoming: NodeRequest,
  mayPass: boolean,
  { onResponse, readClient, arrived, peer, isSecure, annotation }: Recording,
): OnSent {
  return (answer, delivery) => {
    const request = readRequest(incoming, mayPass, isSecure);
    onResponse({
      request,
      answer,
      delivery,
      milliseconds: performance.now() - arrived,
      remoteAddress: peer!.address,
      client: readClient(request.headers, peer!),
      httpVersion: incoming.httpVersion,
      id: annotation?.id,
      why: describeReason(answer.reason),
    });
  };
}

interface Recording extends Arrival {
  readonly onResponse: (record: ResponseRecord) => void;
  readonly readClient: (headers: RequestHeaders, peer: Peer) => Client;
}

/** When a request came, by the clock of `performance`, and what is added to its answer. */
interface Arrival {
  readonly arrived: number;
  /** Undefined where nobody is told. */
  readonly peer: Peer | undefined;
  /** The client asked over TLS, of us or of a trusted proxy. */
  readonly isSecure: boolean;
  readonly annotation: Annotation | undefined;
}

// What the next handler throws, or a host's response, is the next handler's to tell while nothing was sent.
function hand(error: unknown, response: NodeResponse, next: ((error?: unknown) => void) | undefined): void {
  if (next !== undefined && !response.headersSent) next(error);
  else breakOff(response, error instanceof Error ? error : undefined);
}

interface Answering extends Pick<Recording, "readClient"> {
  readonly responder: Responder;
  readonly keeper: Keeper | undefined;
}

interface Exchange extends Arrival {
  readonly incoming: NodeRequest;
  readonly response: NodeResponse;
  readonly next: ((error?: unknown) => void) | undefined;
  readonly turn: Turn;
}

// Never rejects; resolves when the answer is gone, or its client is.
async function answer(
  { responder, keeper, readClient }: Answering,
  { onResponse, stalledAfterSeconds = STALLED_SECONDS }: NodeHandlerOptions,
  { incoming, response, next, turn, arrived, peer, isSecure, annotation }: Exchange,
): Promise<void> {
  annotation?.begin();
  const outgoing = toOutgoing(incoming, response, { turn, annotation });
  const stalledAfterMs = stalledAfterSeconds * 1000;
  try {
    const request = readRequest(incoming, next !== undefined, isSecure);
    // What is refused for its fields is kept under no key.
    const isPlain = keeper !== undefined && request.hasSeveralHosts !== true;
    const key = isPlain ? readKey(incoming, next !== undefined, isSecure) : undefined;
    const planned =
      key === undefined ? await responder.respond(request) : await keeper!.respond(key, request);
    if (planned.kind === "pass") {
      // Whoever has left before its turn needs no other handler.
      if (!outgoing.destroyed) next!();
      return;
    }
    const delivery = await deliver(outgoing, planned, { request, responder, stalledAfterMs });
    await finished(outgoing);
    onResponse?.({
      request,
      answer: planned,
      delivery:
        delivery.complete && !outgoing.writableFinished
          ? cutOff(delivery.status, delivery.bytes, "client-left")
          : delivery,
      milliseconds: performance.now() - arrived,
      remoteAddress: peer!.address,
      client: readClient(request.headers, peer!),
      httpVersion: incoming.httpVersion,
      id: annotation?.id,
      why: describeReason(planned.reason),
    });
  } catch (error) {
    hand(error, response, next);
  }
}

function finished(outgoing: Outgoing): Promise<void> | undefined {
  if (outgoing.writableFinished || outgoing.destroyed) return undefined;
  return new Promise((resolve) => outgoing.onceClosed(resolve));
}
