import cluster from "node:cluster";
import { type EventEmitter, once } from "node:events";
import { networkInterfaces } from "node:os";
import { type Command, Option } from "commander";
import { PROXY_FIELDS, type Proxies, type ProxyField } from "../adapters/client.js";
import { LOG_FORMS, type LogForm, openLog } from "../adapters/log/open-log.js";
import { openTerminal, printHeading, type Terminal } from "../adapters/log/terminal.js";
import { Metrics } from "../adapters/metrics.js";
import {
  type ResponseRecord,
  type RunningServer,
  type ServerOptions,
  StartError,
  startServer,
} from "../adapters/node.js";
import { both } from "../adapters/node-handler.js";
import { SiteError } from "../config/site-error.js";
import { formatPath } from "../core/request/target.js";
import type { ReloadableSite } from "../site/reloadable.js";
import type { Site } from "../site/site.js";
import { parsePause } from "./check-options.js";
import { parseMetrics, parsePort, parseProxies } from "./listen-values.js";
import { openBrowser } from "./open-browser.js";
import { reloadOnChange } from "./reload.js";
import { answerBeats } from "./worker-talk.js";
import { parseWorkers } from "./workers.js";

export interface ListenOptions {
  readonly host: string;
  readonly port: number;
  readonly log: LogForm;
  readonly logFile?: string;
  readonly redactQuery?: true;
  readonly workers?: number;
  readonly socket?: string;
  readonly tlsCert?: string;
  readonly tlsKey?: string;
  readonly health?: string;
  readonly proxies?: Proxies;
  readonly proxyField?: ProxyField;
  readonly requestIds?: true;
  readonly serverTiming?: true;
  readonly metrics?: ServerOptions["metrics"];
  /** In milliseconds, as all times of the command line. */
  readonly drain?: number;
  readonly grace?: number;
  readonly open?: true;
}

/** The options that every command which listens has. */
export function addListenOptions(command: Command): Command {
  return command
    .addOption(
      new Option("--host <HOST>", "address to listen on; 0.0.0.0 is every address of this machine")
        .default("127.0.0.1")
        .env("HOST"),
    )
    .addOption(
      new Option("-p, --port <N>", "port to listen on; 0 picks a free one")
        .argParser(parsePort)
        .default(8080)
        .env("PORT"),
    )
    .option("--open", "open the browser")
    .addOption(new Option("--log <FORM>", "how requests are logged").choices(LOG_FORMS).default("pretty"));
}

/** The options of a production server. */
export function addServerOptions(command: Command): Command {
  return command
    .option(
      "--log-file <FILE>",
      "append the log to this file (combined without --log); SIGUSR2 opens it again",
    )
    .option("--redact-query", "leave queries out of the log")
    .option("--socket <PATH>", "listen on this UNIX socket instead of a port")
    .option(
      "--tls-cert <FILE>",
      "answer over TLS, in HTTP/2 and HTTP/1.1, with this certificate (PEM); read again when it changes",
    )
    .option("--tls-key <FILE>", "the key of the certificate (PEM)")
    .option(
      "--proxies <N|LIST>",
      "how many proxies are in front, or their addresses and networks, with commas: the log names the client behind them",
      parseProxies,
    )
    .addOption(
      new Option("--proxy-field <FIELD>", "the field in which they name the client; the other one is ignored")
        .choices(PROXY_FIELDS)
        .default("X-Forwarded-For"),
    )
    .option(
      "--request-ids",
      "give each request an id, in X-Request-Id and in the log; a trusted proxy's id is kept",
    )
    .option("--server-timing", "say in Server-Timing how long it took to find each answer")
    .option(
      "--workers <N|auto>",
      "this many processes on one address; auto is one per processor",
      parseWorkers,
    )
    .option("--health <PREFIX>", "answer PREFIX/alive and PREFIX/ready, which is 503 once the server stops")
    .option(
      "--metrics <PATH|PORT>",
      "serve metrics as OpenMetrics text, at this path or on their own port",
      parseMetrics,
    )
    .option(
      "--drain <TIME>",
      "when it stops, keep answering this long while PREFIX/ready is 503 (default 0)",
      parsePause,
    )
    .option(
      "--grace <TIME>",
      "when it stops, let responses in progress finish this long (default 10s)",
      parsePause,
    );
}

export interface ListenExtras {
  /** The site that is opened again on SIGHUP, and when this file changes, where there is one. */
  readonly reloads?: { readonly site: ReloadableSite; readonly file: string | undefined };
  /** Tells of what changes meanwhile. */
  readonly notices?: EventEmitter<{ notice: [string] }> | undefined;
  readonly announce?: (server: RunningServer, terminal: Terminal) => void;
  /** Opens something beside it, once it listens. */
  readonly beside?: (server: RunningServer, terminal: Terminal) => Promise<void>;
  /** Told of each answer, besides the log. */
  readonly onResponse?: (record: ResponseRecord) => void;
}

/** Starts a server, says where it listens, and stops it on SIGINT or SIGTERM. Resolves when it has stopped. */
export async function listen(
  site: Site,
  options: ListenOptions,
  title: string,
  { reloads, notices, announce, beside, onResponse }: ListenExtras = {},
): Promise<void> {
  const {
    log,
    health,
    proxies,
    proxyField,
    requestIds = false,
    serverTiming = false,
    drain,
    grace,
  } = options;
  const output = openTerminal(process.stdout);
  // Where standard output is a log for programs, what is meant for people goes to standard error.
  const isForPrograms = log !== "pretty" && log !== "off" && options.logFile === undefined;
  const people = isQuiet() ? silent(output) : isForPrograms ? openTerminal(process.stderr) : output;
  const stopReloading =
    reloads &&
    reloadOnChange(reloads.site, reloads.file, (text, isNew) => {
      people.print(text);
      if (isNew) printSite(people, reloads.site);
    });
  notices?.on("notice", (text) => people.print(text));
  // A signal that comes while the server starts stops it in order, once it has.
  const stopped = Promise.race([once(process, "SIGINT"), once(process, "SIGTERM")]);
  const told = await openLog(
    { form: log, file: options.logFile, redactQuery: options.redactQuery === true },
    { terminal: output, people },
    () => site.mounts,
  );
  const reopen = (): void => told?.reopen();
  process.on("SIGUSR2", reopen);
  const server = await startServer(site, {
    ...readPlace(options),
    tls: readTls(options),
    health,
    requestIds,
    serverTiming,
    onWarning: (text) => people.print(people.colors.yellow(`Warning: ${text}`)),
    ...(proxies !== undefined && { proxies }),
    ...(proxyField !== undefined && { proxyField }),
    ...countOrTell(options, site, both(told?.write, onResponse)),
  }).catch((error: unknown) => {
    throw error instanceof StartError ? new StartError(error.message + nameVariables(options)) : error;
  });

  if (cluster.isWorker) answerBeats();
  if (!process.env.EPISTYLE_AGAIN) {
    printHeading(people, title);
    printSite(people, site);
    announce?.(server, people);
    sayWhere(people, server, site);
    if (options.open) openBrowser(addressOf(server, site), (text) => people.print(text));
    await beside?.(server, people);
  }

  await stopped;
  people.print("Stopping: responses in progress finish first. A second Ctrl-C stops at once.");
  process.once("SIGINT", () => process.exit(130));
  stopReloading?.();
  await server.close({
    ...(grace !== undefined && { graceSeconds: grace / 1000 }),
    ...(drain !== undefined && { drainSeconds: drain / 1000 }),
  });
  process.off("SIGUSR2", reopen);
  await told?.close();
}

// Somebody else may have set it, for another purpose.
function nameVariables({ host, port }: ListenOptions): string {
  const { HOST, PORT } = process.env;
  const names = [...(HOST === host ? ["HOST"] : []), ...(PORT === String(port) ? ["PORT"] : [])];
  return names.length === 0
    ? ""
    : ` (${names.join(" and ")} of the environment ${names.length === 1 ? "says" : "say"} so.)`;
}

// Of several workers the first one speaks.
function isQuiet(): boolean {
  return cluster.isWorker && process.env.EPISTYLE_WORKER !== "0";
}

function silent(terminal: Terminal): Terminal {
  return { ...terminal, print: () => {} };
}

// A worker counts, and tells who started it: together they have one port for it.
function countOrTell(
  { metrics }: ListenOptions,
  site: Site,
  write: ((record: ResponseRecord) => void) | undefined,
): Partial<ServerOptions> {
  if (metrics === undefined || !cluster.isWorker) return { metrics, ...(write && { onResponse: write }) };
  const counted = new Metrics();
  process.on("message", (message) => {
    if (message === "metrics" && process.connected)
      process.send!({ metrics: counted.snapshot(site) }, undefined, undefined, () => {});
  });
  return {
    onResponse(record) {
      counted.count(record);
      write?.(record);
    },
  };
}

// A service manager hands a socket over as descriptor 3, and says so to this process alone.
function readPlace({ host, port, socket }: ListenOptions): Partial<ServerOptions> {
  const { LISTEN_FDS, LISTEN_PID } = process.env;
  if (socket !== undefined) return { socket };
  // Workers listen through who started them, and was handed the socket.
  const whose = cluster.isWorker ? process.ppid : process.pid;
  const isOurs = LISTEN_PID === undefined || Number(LISTEN_PID) === whose;
  return LISTEN_FDS === "1" && isOurs ? { descriptor: 3 } : { host, port };
}

function readTls({ tlsCert, tlsKey }: ListenOptions): ServerOptions["tls"] {
  if (tlsCert === undefined && tlsKey === undefined) return undefined;
  if (tlsCert === undefined || tlsKey === undefined) {
    const [given, other] = tlsCert === undefined ? ["--tls-key", "--tls-cert"] : ["--tls-cert", "--tls-key"];
    throw new SiteError([`${given}: a certificate needs its key; also give ${other} FILE.`]);
  }
  return { cert: tlsCert, key: tlsKey };
}

// If a server listens on every address, people want to know which those are.
function listAddresses({ url, port }: RunningServer): string[] {
  if (!/\/\/(?:0\.0\.0\.0|\[::\]):/.test(url)) return [];
  const scheme = url.slice(0, url.indexOf(":"));
  return Object.values(networkInterfaces())
    .flatMap((all) => all ?? [])
    .filter(({ family }) => family === "IPv4")
    .map(({ address }) => `${scheme}://${address}:${port}/`);
}

function sayWhere(people: Terminal, server: RunningServer, site: Site): void {
  people.print(`\nListening on ${addressOf(server, site)}`);
  for (const address of listAddresses(server)) people.print(`             ${address}`);
  if (server.metricsPort !== undefined) people.print(`Metrics on port ${server.metricsPort}`);
}

// An address that answers: without a mount at the root, the first one's.
function addressOf({ url }: RunningServer, { mounts }: Site): string {
  const [first] = mounts;
  return first === undefined || url.startsWith("unix:") || mounts.some(({ at }) => at === "/")
    ? url
    : `${url}${formatPath(first.at.slice(1))}/`;
}

function printSite(terminal: Terminal, site: Site): void {
  const width = Math.max(...site.mounts.map(({ at }) => at.length));
  for (const { at, source } of site.mounts) terminal.print(`${at.padEnd(width)}  ${source}`);
  for (const warning of site.warnings) terminal.print(terminal.colors.yellow(`Warning: ${warning}`));
}
