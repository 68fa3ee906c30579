import { type IncomingMessage, ServerResponse } from "node:http";
import type { Http2ServerRequest, Http2ServerResponse, ServerHttp2Stream } from "node:http2";
import type { Socket } from "node:net";
import type { Annotation } from "./annotate.js";
import type { Connection, Turn } from "./turns.js";

/** A request of Node's HTTP/1.1 or HTTP/2 server. */
export type NodeRequest = IncomingMessage | Http2ServerRequest;

/** A response of Node's HTTP/1.1 or HTTP/2 server. */
export type NodeResponse = ServerResponse | Http2ServerResponse;

/** What carrying out a plan needs of a response: both protocols have it. */
export interface Outgoing {
  readonly destroyed: boolean;
  readonly headersSent: boolean;
  readonly writableFinished: boolean;
  /** Tells values of Link before the answer, where clients heed that: over HTTP/2 (RFC 8297). */
  tellEarly(links: readonly string[]): void;
  writeHead(status: number, fields: readonly string[]): unknown;
  write(bytes: Uint8Array, done: (error?: Error | null) => void): unknown;
  end(bytes?: Uint8Array): unknown;
  destroy(error?: Error): unknown;
  /** A buffer that was written is free when its write is done. */
  readonly reusesMemory: boolean;
  /** Tells when the response is over: sent to its end, or its connection gone. The last listener alone is sure to be told. */
  onceClosed(listener: () => void): void;
  /** Tells when the client has taken nothing for so long. */
  onStalled(afterMs: number, listener: () => void): void;
}

/** The response as plans are carried out on it. */
export function toOutgoing(
  request: NodeRequest,
  response: NodeResponse,
  { turn, annotation }: { readonly turn: Turn; readonly annotation: Annotation | undefined },
): Outgoing {
  return "stream" in response
    ? new StreamOutgoing(response, annotation)
    : new MessageOutgoing(response, request.socket as Socket | undefined, { turn, annotation });
}

function addTo(fields: readonly string[], annotation: Annotation | undefined): readonly string[] {
  return annotation === undefined ? fields : [...fields, ...annotation.fields()];
}

/** How many answers are in progress at a time: one after another where they go out one after another. */
const TURNS = { message: 1, stream: 32 };

/** What a request shares with others, and how many of them may be in progress on it. */
export function findLine(
  request: NodeRequest,
  response: NodeResponse,
): readonly [connection: Connection | undefined, width: number] {
  if (!("stream" in response)) return [request.socket as Socket | undefined, TURNS.message];
  return [response.stream.session ?? request.socket, TURNS.stream];
}

/**
 * A response of HTTP/1.1. One that is behind others on its connection is told nothing when that ends, so the connection is
 * asked.
 */
class MessageOutgoing implements Outgoing {
  readonly #response: ServerResponse;
  readonly #socket: Socket | undefined;
  readonly #turn: Turn;
  readonly #annotation: Annotation | undefined;

  constructor(
    response: ServerResponse,
    socket: Socket | undefined,
    { turn, annotation }: { readonly turn: Turn; readonly annotation: Annotation | undefined },
  ) {
    this.#response = response;
    this.#socket = socket;
    this.#turn = turn;
    this.#annotation = annotation;
  }

  get reusesMemory(): boolean {
    // Whoever replaced `write` may keep what is written.
    return this.#response.write === ServerResponse.prototype.write;
  }
  get destroyed(): boolean {
    return this.#response.destroyed || this.#socket?.destroyed === true;
  }
  get headersSent(): boolean {
    return this.#response.headersSent;
  }
  get writableFinished(): boolean {
    return this.#response.writableFinished;
  }
  // Browsers read them over HTTP/2 alone, and old clients take them for the answer.
  tellEarly(): void {}
  writeHead(status: number, fields: readonly string[]): void {
    this.#response.writeHead(status, addTo(fields, this.#annotation) as never);
  }
  write(bytes: Uint8Array, done: (error?: Error | null) => void): void {
    this.#response.write(bytes, done);
  }
  end(bytes?: Uint8Array): void {
    this.#response.end(bytes);
  }
  destroy(error?: Error): void {
    breakOff(this.#response, error);
  }
  onceClosed(listener: () => void): void {
    this.#response.once("close", listener);
    this.#turn.whenGone(listener);
  }
  onStalled(afterMs: number, listener: () => void): void {
    this.#response.setTimeout(afterMs, listener);
  }
}

/** Sends values of Link before an answer of HTTP/2. */
export function tellEarly(response: Http2ServerResponse, links: readonly string[]): void {
  if (!response.headersSent && !response.stream.destroyed)
    response.writeEarlyHints({ link: links as string[] });
}

/** Error codes of a stream (RFC 9113 §7). */
const NO_ERROR = 0;
const INTERNAL_ERROR = 2;

/** Ends a response at once, with what of it is on its way. */
export function breakOff(response: NodeResponse, error?: Error): void {
  if ("stream" in response) response.stream.close(INTERNAL_ERROR);
  else response.destroy(error);
}

/**
 * A response of HTTP/2. What became of it only its stream tells: the response has neither `destroyed` nor `destroy`, and says
 * `finish` of a stream that was cancelled too.
 */
class StreamOutgoing implements Outgoing {
  readonly #response: Http2ServerResponse;
  readonly #stream: ServerHttp2Stream;
  readonly #annotation: Annotation | undefined;

  constructor(response: Http2ServerResponse, annotation: Annotation | undefined) {
    this.#response = response;
    this.#stream = response.stream;
    this.#annotation = annotation;
  }

  readonly reusesMemory = false;

  get destroyed(): boolean {
    return this.#stream.destroyed;
  }
  get headersSent(): boolean {
    return this.#response.headersSent;
  }
  tellEarly(links: readonly string[]): void {
    tellEarly(this.#response, links);
  }
  get writableFinished(): boolean {
    return this.#stream.writableFinished && this.#stream.rstCode === NO_ERROR;
  }
  writeHead(status: number, fields: readonly string[]): void {
    this.#response.writeHead(status, addTo(fields, this.#annotation) as never);
  }
  write(bytes: Uint8Array, done: (error?: Error | null) => void): void {
    this.#response.write(bytes, done);
  }
  end(bytes?: Uint8Array): void {
    if (bytes === undefined) this.#response.end();
    else this.#response.end(bytes);
  }
  destroy(): void {
    breakOff(this.#response);
  }
  onceClosed(listener: () => void): void {
    this.#stream.once("close", listener);
  }
  onStalled(afterMs: number, listener: () => void): void {
    this.#stream.setTimeout(afterMs, listener);
  }
}
