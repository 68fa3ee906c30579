import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { checkOptions, checkSite } from "../site/arguments.js";
import type { Site } from "../site/site.js";
import { STALLED_SECONDS } from "./delivery.js";
import { type NodeHandlerOptions, nodeHandler, type ResponseRecord } from "./node-handler.js";

export interface ServerOptions extends NodeHandlerOptions {
  /** Address to listen on; this machine alone when not given (127.0.0.1). */
  readonly host?: string;
  /** Port from 0 to 65535; 0 takes a free one (default 8080). */
  readonly port?: number;
  /** So many connections at a time; a further one is closed at once (default 4096). */
  readonly maxConnections?: number;
}

/** How long a request's head, the whole request and an idle connection may take, in milliseconds. */
const HEAD_MS = 20_000;
const REQUEST_MS = 60_000;
const IDLE_MS = 5_000;

export interface RunningServer {
  /** Address to open, with a slash at its end. */
  readonly url: string;
  readonly port: number;
  /**
   * Stops taking connections, lets responses under way finish, and resolves when all are done. What is not finished after
   * `graceSeconds` (default 10) is cut off.
   */
  close(graceSeconds?: number): Promise<void>;
}

/** How often a stopping server closes connections that became idle, in milliseconds. */
const SWEEP_MS = 50;

/** The server could not start. The message says what was found and what to do. */
export class StartError extends Error {
  override readonly name = "StartError";
}

/** Starts a server of its own for a site. Rejects with a StartError when it cannot listen, and with a TypeError for what is no site. */
export async function startServer(site: Site, options: ServerOptions = {}): Promise<RunningServer> {
  checkSite("startServer", site);
  checkOptions("startServer", options, [
    "host",
    "port",
    "maxConnections",
    "onResponse",
    "stalledAfterSeconds",
  ]);
  const { host = "127.0.0.1", port = 8080, maxConnections = 4096, onResponse, ...handling } = options;
  if (!Number.isInteger(port) || port < 0 || port > 65535) {
    if (typeof port === "string" && /^\d+$/.test(port))
      throw new StartError(`port: found ${JSON.stringify(port)}, a text; write the number ${Number(port)}.`);
    throw new StartError(
      `port: found ${typeof port === "number" ? port : JSON.stringify(port)}; a port is a whole number from 0 to 65535, and 0 takes a free one.`,
    );
  }
  let stopped = false;
  const tell = (record: ResponseRecord): void => {
    const { delivery } = record;
    const isOurs = stopped && delivery.cutOff === "client-left";
    onResponse!(isOurs ? { ...record, delivery: { ...delivery, cutOff: "server-stopped" } } : record);
  };
  const server = createServer(
    { headersTimeout: HEAD_MS, requestTimeout: REQUEST_MS, keepAliveTimeout: IDLE_MS },
    nodeHandler(site, onResponse === undefined ? handling : { ...handling, onResponse: tell }),
  );
  server.maxConnections = maxConnections;
  // A connection on which nothing moves at all is closed, whatever it waits for.
  server.timeout = 2 * (handling.stalledAfterSeconds ?? STALLED_SECONDS) * 1000;
  await new Promise<void>((resolve, reject) => {
    server.once("error", (error: NodeJS.ErrnoException) =>
      reject(new StartError(explain(error, host, port))),
    );
    server.listen({ host, port }, resolve);
  });
  const { port: taken } = server.address() as AddressInfo;
  return {
    url: `http://${host.includes(":") ? `[${host}]` : host}:${taken}/`,
    port: taken,
    close(graceSeconds = 10) {
      return new Promise((resolve) => {
        const limit = setTimeout(() => {
          stopped = true;
          server.closeAllConnections();
        }, graceSeconds * 1000);
        // A connection is idle once its response is done; it would be kept for the next one otherwise.
        const sweep = setInterval(() => server.closeIdleConnections(), SWEEP_MS);
        server.close(() => {
          clearTimeout(limit);
          clearInterval(sweep);
          resolve();
        });
        server.closeIdleConnections();
      });
    },
  };
}

function explain(error: NodeJS.ErrnoException, host: string, port: number): string {
  switch (error.code) {
    case "EADDRINUSE":
      return `Port ${port} on ${host} is in use by another program; stop that one, or choose another port (0 takes a free one).`;
    case "EACCES":
      return `Port ${port} needs rights that this process does not have; choose a port from 1024 up, such as 8080.`;
    case "EADDRNOTAVAIL":
      return `${host} is not an address of this machine; write 127.0.0.1 for this machine alone, or 0.0.0.0 for every address it has.`;
    case "ENOTFOUND":
    case "EAI_AGAIN":
      return `The host name ${JSON.stringify(host)} is not known; write 127.0.0.1 for this machine alone, or 0.0.0.0 for every address it has.`;
    default:
      return `The server cannot listen on ${host}, port ${port} (${error.code ?? error.message}).`;
  }
}
