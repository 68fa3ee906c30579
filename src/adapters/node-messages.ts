import type { IncomingMessage, ServerResponse } from "node:http";
import type { Http2ServerRequest, Http2ServerResponse } from "node:http2";

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
  return response as unknown as Outgoing;
}
