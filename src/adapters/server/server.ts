import { createServer, type Server as HttpServer } from "node:http";
import type { Http2SecureServer } from "node:http2";
import type { AddressInfo } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import { releasePlan } from "../../core/answer/plan.js";
import { checkOptions, checkSite } from "../../site/arguments.js";
import { emitWarning } from "../../site/platform.js";
import type { Site } from "../../site/site.js";
import { STALLED_SECONDS } from "../delivery.js";
import { startLog } from "../log/start-log.js";
import { formatMetrics, Metrics } from "../metrics.js";
import {
  both,
  HANDLER_OPTIONS,
  type NodeHandler,
  type NodeHandlerOptions,
  nodeHandler,
} from "../node-handler.js";
import type { ResponseRecord } from "../response-record.js";
import { CIPHERS, followCertificate, readCertificate, type TlsOptions } from "./certificate.js";
import { type Connections, followPlain } from "./connections.js";
import { withHealth } from "./health.js";
import { listenForMetrics } from "./metrics-port.js";
import { type Endpoint, listenAt, type PlaceOptions, readPlace, StartError } from "./place.js";
import { followSecure } from "./secure-connections.js";

/** Where a server listens, and how it answers. Without options: 127.0.0.1, port 8080. */
export interface ServerOptions extends NodeHandlerOptions, PlaceOptions {
  /** How many connections at a time; more are closed at once (default 4096). */
  readonly maxConnections?: number;
  /** Answers over TLS, in HTTP/2 and HTTP/1.1 on the same port. The files are read again when they change. */
  readonly tls?: TlsOptions | undefined;
  /**
   * Prefix of two health addresses, such as "/health": `/health/alive` answers 200 while it answers at
   * all, `/health/ready` 200 until stopping begins, then 503.
   */
  readonly health?: string | undefined;
  /**
   * Where metrics are served as OpenMetrics text: answers by status and kind, bytes, times, what was cut off, memory, descriptors. A path
   * on the same port, such as "/health/metrics", or its own port, which listens only on this machine, unless you name a host.
   */
  readonly metrics?: string | { readonly port: number; readonly host?: string | undefined } | undefined;
  /**
   * Called with what goes wrong while the server runs, and what to do, such as a renewed certificate that cannot be used. Without it the
   * process warns (`process.emitWarning`).
   */
  readonly onWarning?: ((text: string) => void) | undefined;
}

/** How a server stops, in seconds. */
export interface CloseOptions {
  /** How long responses in progress may take, before they are cut off (default 10). */
  readonly graceSeconds?: number | undefined;
  /** How long requests are still answered while the server says that it is not ready (default 0). */
  readonly drainSeconds?: number | undefined;
}

/** A server that listens. */
export interface RunningServer {
  /** Address to open, with a slash at its end; for a socket its path, as `unix:/run/site.sock`. */
  readonly url: string;
  /** 0 for a server that listens on no port. */
  readonly port: number;
  /** The port of the metrics, if they have their own. */
  readonly metricsPort?: number;
  /**
   * Stops taking connections, lets responses in progress finish, and resolves when all are done. A number is the grace in seconds.
   * A second call shortens nothing and resolves with the first.
   */
  close(options?: number | CloseOptions): Promise<void>;
}

/** How long a request's head, the whole request and an idle connection may take, in milliseconds. */
const HEAD_MS = 20_000;
const REQUEST_MS = 60_000;
const IDLE_MS = 5_000;
/** How long a TLS client may take until hands are shaken, in milliseconds. */
const HANDSHAKE_MS = 10_000;
/** How long the platform may take to close what was cut off, in milliseconds. */
const CUT_MS = 1000;
/** Requests that may be in progress at a time on one connection of HTTP/2. */
const STREAMS_AT_MOST = 100;

const OPTIONS = [
  "host",
  "port",
  "socket",
  "descriptor",
  "tls",
  "health",
  "metrics",
  "maxConnections",
  "onWarning",
  ...HANDLER_OPTIONS,
];

/** Starts a server for a site. Rejects with a StartError when it cannot listen, and with a TypeError if `site` is not a site. */
export async function startServer(site: Site, options: ServerOptions = {}): Promise<RunningServer> {
  checkSite("startServer", site);
  checkOptions("startServer", options, OPTIONS);
  const { host, port, socket, descriptor, log: logging, ...others } = options;
  const place = readPlace({ host, port, socket, descriptor });
  checkPath("health", options.health);
  if (typeof options.metrics === "string") checkPath("metrics", options.metrics);

  const log = logging === undefined ? undefined : startLog("startServer", logging, site);
  const ends: End[] = log === undefined ? [] : [() => log.close()];
  try {
    await log?.opened;
    return await listen(site, place, { ...others, onResponse: both(log?.write, others.onResponse) }, ends);
  } catch (error) {
    await endAll(ends);
    throw error;
  }
}

/** Ends what a server has opened. */
type End = () => Promise<void> | void;

async function endAll(ends: readonly End[]): Promise<void> {
  for (const end of ends) await end();
}

// What ends what was opened is put before `ends` at once: it holds as well when the rest cannot start.
async function listen(
  site: Site,
  place: Endpoint,
  options: Omit<ServerOptions, keyof PlaceOptions | "log">,
  ends: End[],
): Promise<RunningServer> {
  const {
    tls,
    health: prefix,
    metrics,
    maxConnections = 4096,
    onWarning = emitWarning,
    ...handling
  } = options;
  const stopping = { isCut: false };
  const counted = metrics === undefined ? undefined : new Metrics();
  const format = (): string => formatMetrics([counted!.snapshot(site)]);
  const own = nodeHandler(site, tellStops(countIn(counted, handling), stopping));
  const beside = typeof metrics === "string" ? { path: metrics, format } : undefined;
  const health =
    prefix === undefined && beside === undefined
      ? undefined
      : withHealth(prefix, own, { metrics: beside, store: () => site.store });
  // A connection on which nothing moves at all is closed, whatever it waits for.
  const timeout = 2 * (handling.stalledAfterSeconds ?? STALLED_SECONDS) * 1000;
  const { server, connections, close } = await makeServer(
    health?.handler ?? own,
    tls && { ...tls, onWarning },
    timeout,
  );
  ends.unshift(close);
  server.maxConnections = maxConnections;
  server.timeout = timeout;
  const apart =
    typeof metrics === "object" ? await listenForMetrics(metrics, async () => format()) : undefined;
  if (apart !== undefined)
    ends.unshift(() => {
      apart.close();
      apart.closeAllConnections();
    });
  for (const text of await findShadowed(site, prefix)) onWarning(text);
  await listenAt(server, place);

  let stopped: Promise<void> | undefined;
  const stop = async ({ graceSeconds = 10, drainSeconds = 0 }: CloseOptions): Promise<void> => {
    health?.stop();
    if (drainSeconds > 0) await wait(drainSeconds * 1000);
    await letFinish(connections, graceSeconds, stopping);
    await endAll(ends);
  };
  const address = server.address() as AddressInfo | string | null;
  const taken = typeof address === "object" && address !== null ? (address.port ?? 0) : 0;
  return {
    url: formatUrl(place, taken, tls !== undefined),
    port: taken,
    ...(apart !== undefined && { metricsPort: (apart.address() as AddressInfo).port }),
    close(given = {}) {
      stopped ??= stop(typeof given === "number" ? { graceSeconds: given } : given);
      return stopped;
    },
  };
}

/** Files of the site that nobody gets, because a health address takes their place. */
async function findShadowed(site: Site, prefix: string | undefined): Promise<string[]> {
  if (prefix === undefined) return [];
  const found: string[] = [];
  for (const target of [`${prefix}/alive`, `${prefix}/ready`]) {
    const answer = await site.respond({ method: "HEAD", target, headers: {}, mayPass: true });
    releasePlan(answer);
    if (answer.kind === "response" && answer.status === 200 && answer.file !== undefined)
      found.push(
        `health: ${target} is a file of the site, too (${answer.file}), and is never sent; choose another prefix.`,
      );
  }
  return found;
}

// Lets answers in progress finish, and cuts off what then still runs.
async function letFinish(
  connections: Connections,
  graceSeconds: number,
  stopping: { isCut: boolean },
): Promise<void> {
  const cutting = new AbortController();
  const limit = setTimeout(() => {
    stopping.isCut = true;
    connections.cut();
  }, graceSeconds * 1000);
  await Promise.race([
    new Promise<void>((resolve) => connections.drain(resolve)),
    // What was cut off is gone; a socket that the platform does not let go of holds up nobody.
    wait(graceSeconds * 1000 + CUT_MS, undefined, { ref: true, signal: cutting.signal }).catch(() => {}),
  ]);
  cutting.abort();
  clearTimeout(limit);
}

function checkPath(option: "health" | "metrics", path: string | undefined): void {
  if (path === undefined || (typeof path === "string" && /^\/[^?#\s]*[^/?#\s]$/.test(path))) return;
  const what = option === "health" ? "a prefix" : "a path";
  throw new StartError(
    `${option}: found ${JSON.stringify(path)}; write ${what} with a slash at the start and none at the end, such as "/${option}".`,
  );
}

function countIn(metrics: Metrics | undefined, handling: NodeHandlerOptions): NodeHandlerOptions {
  if (metrics === undefined) return handling;
  const { onResponse } = handling;
  return {
    ...handling,
    onResponse(record) {
      metrics.count(record);
      onResponse?.(record);
    },
  };
}

// What was cut off by stopping is told so, and not as the client's doing.
function tellStops(handling: NodeHandlerOptions, stopping: { readonly isCut: boolean }): NodeHandlerOptions {
  const { onResponse } = handling;
  if (onResponse === undefined) return handling;
  const tell = (record: ResponseRecord): void => {
    const { delivery } = record;
    const isOurs = stopping.isCut && delivery.cutOff === "client-left";
    onResponse(isOurs ? { ...record, delivery: { ...delivery, cutOff: "server-stopped" } } : record);
  };
  return { ...handling, onResponse: tell };
}

interface MadeServer {
  readonly server: HttpServer;
  readonly connections: Connections;
  readonly close: () => void;
}

async function makeServer(
  handler: NodeHandler,
  tls: (TlsOptions & { readonly onWarning: (text: string) => void }) | undefined,
  idleMs: number,
): Promise<MadeServer> {
  const times = { headersTimeout: HEAD_MS, requestTimeout: REQUEST_MS, keepAliveTimeout: IDLE_MS };
  if (tls === undefined) {
    const server = createServer(times, handler);
    return { server, connections: followPlain(server), close: () => {} };
  }
  const certificate = await readCertificate(tls);
  const { createSecureServer } = await import("node:http2");
  const settings = { maxConcurrentStreams: STREAMS_AT_MOST };
  const server: Http2SecureServer = createSecureServer(
    { ...certificate, ciphers: CIPHERS, allowHTTP1: true, settings, handshakeTimeout: HANDSHAKE_MS },
    handler,
  );
  Object.assign(server, times);
  const close = followCertificate(tls, {
    use: (next) => server.setSecureContext({ ...next, ciphers: CIPHERS }),
    refuse: ({ message }) =>
      tls.onWarning(`The renewed certificate is not used, the old one still is. ${message}`),
  });
  // Both have what is used of them here.
  return { server: server as unknown as HttpServer, connections: followSecure(server, idleMs), close };
}

function formatUrl(place: Endpoint, port: number, isTls: boolean): string {
  if (place.kind === "socket") return `unix:${place.path}`;
  const host = place.kind === "port" ? place.host : "127.0.0.1";
  return `${isTls ? "https" : "http"}://${host.includes(":") ? `[${host}]` : host}:${port}/`;
}
