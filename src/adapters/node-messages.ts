import type { IncomingMessage, ServerResponse } from "node:http";
import type { Http2ServerRequest, Http2ServerResponse, ServerHttp2Stream } from "node:http2";

/** A request of Node's HTTP/1.1 or HTTP/2 server. */
export type NodeRequest = IncomingMessage | Http2ServerRequest;

/** A response of Node's HTTP/1.1 or HTTP/2 server. */
export type NodeResponse = ServerResponse | Http2ServerResponse;

/** What carrying out a plan needs of a response: both protocols have it. */
export interface Outgoing {
  readonly destroyed: boolean;
  readonly headersSent: boolean;
  readonly writableFinished: boolean;
  writeHead(status: number, fields: readonly string[]): unknown;
  write(bytes: Uint8Array, done: () => void): unknown;
  end(bytes?: Uint8Array): unknown;
  destroy(error?: Error): unknown;
  once(event: "close" | "finish", listener: () => void): unknown;
}

/** The response as plans are carried out on it. */
export function toOutgoing(response: NodeResponse): Outgoing {
  return "stream" in response ? new StreamOutgoing(response) : (response as unknown as Outgoing);
}

/** Error codes of a stream (RFC 9113 §7). */
const NO_ERROR = 0;
const INTERNAL_ERROR = 2;

/**
 * A response of HTTP/2. What became of it only its stream tells: the response has neither `destroyed` nor `destroy`, and says
 * `finish` of a stream that was cancelled too.
 */
class StreamOutgoing implements Outgoing {
  readonly #response: Http2ServerResponse;
  readonly #stream: ServerHttp2Stream;

  constructor(response: Http2ServerResponse) {
    this.#response = response;
    this.#stream = response.stream;
  }

  get destroyed(): boolean {
    return this.#stream.destroyed;
  }
  get headersSent(): boolean {
    return this.#response.headersSent;
  }
  get writableFinished(): boolean {
    return this.#stream.writableFinished && this.#stream.rstCode === NO_ERROR;
  }
  writeHead(status: number, fields: readonly string[]): void {
    this.#response.writeHead(status, fields as never);
  }
  write(bytes: Uint8Array, done: () => void): void {
    this.#response.write(bytes, done);
  }
  end(bytes?: Uint8Array): void {
    if (bytes === undefined) this.#response.end();
    else this.#response.end(bytes);
  }
  destroy(): void {
    this.#stream.close(INTERNAL_ERROR);
  }
  once(event: "close" | "finish", listener: () => void): void {
    this.#stream.once(event, listener);
  }
}
