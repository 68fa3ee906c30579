import cluster, { type Worker } from "node:cluster";
import { availableParallelism } from "node:os";
import { InvalidArgumentError } from "commander";
import { openTerminal } from "../adapters/log/terminal.js";
import { formatMetrics, type MetricsSnapshot } from "../adapters/metrics.js";
import { listenForMetrics } from "../adapters/server/metrics-port.js";
import { clearSocket } from "../adapters/server/place.js";
import { talkTo, type WorkerTalk } from "./worker-talk.js";

/** How long a worker that died is waited for before another takes its place, in milliseconds: doubled each time, up to a bound. */
const PAUSE_MS = { first: 100, most: 30_000 };
/** A worker that lived so long was well, in milliseconds. */
const WELL_MS = 60_000;

export interface WorkersOptions {
  readonly count: number;
  readonly socket: string | undefined;
  readonly metrics: { readonly port: number; readonly host?: string | undefined } | undefined;
  /** How long workers may take to stop, before they are ended, in milliseconds. */
  readonly stopWithinMs: number;
}

/** Reads how many workers: a number, or auto for one on each processor. */
export function parseWorkers(text: string): number {
  const count = text === "auto" ? availableParallelism() : Number(text);
  if (/^(?:auto|\d{1,3})$/.test(text) && count >= 1 && count <= 128) return count;
  throw new InvalidArgumentError("Write how many workers, from 1 to 128, or auto for one per processor.");
}

/**
 * Runs this very command in several processes that listen on one address. A worker that dies or hangs is replaced; signals are passed
 * on to all. Resolves when all have stopped. The first worker starts alone: what is wrong is told once, and ends everything.
 */
export async function runWorkers({ count, socket, metrics, stopWithinMs }: WorkersOptions): Promise<void> {
  if (socket !== undefined) await clearSocket(socket);
  // A port that is taken is known before anything runs.
  const told =
    metrics && (await listenForMetrics(metrics, async () => formatMetrics(await collectMetrics())));
  const people = openTerminal(process.stderr);
  const state = { isStopping: false };
  const first = start(0);
  const failure = await new Promise<number | undefined>((resolve) => {
    first.once("listening", () => resolve(undefined));
    first.once("exit", (code) => resolve(code ?? 1));
  });
  if (failure !== undefined) {
    process.exitCode = failure;
    told?.close();
    told?.closeAllConnections();
    return;
  }
  const replace = makeReplacer(state, (text) => people.print(text));
  replace.watch(first, 0);
  const others = Array.from({ length: count - 1 }, (_, index) => start(index + 1));
  for (const [index, worker] of others.entries()) replace.watch(worker, index + 1);
  // Until all listen, the death of one may leave nobody who does.
  void Promise.all(others.map(untilReady)).then(() => people.print(`${count} workers`));

  for (const signal of ["SIGHUP", "SIGUSR2"] as const) process.on(signal, () => signalAll(signal));
  await stopped(state, stopWithinMs, (text) => people.print(text));
  told?.close();
  told?.closeAllConnections();
  process.exit(0);
}

// One that hangs does not hear that it should stop.
function stopped(
  state: { isStopping: boolean },
  withinMs: number,
  tell: (text: string) => void,
): Promise<void> {
  return new Promise((resolve) => {
    const stop = (): void => {
      if (state.isStopping) {
        signalAll("SIGKILL");
        process.exit(130);
      }
      state.isStopping = true;
      signalAll("SIGTERM");
      if (workers().length === 0) resolve();
      setTimeout(() => {
        const left = workers().length;
        tell(
          `${left} ${left === 1 ? "worker" : "workers"} did not stop in time, and ${left === 1 ? "is" : "are"} ended.`,
        );
        signalAll("SIGKILL");
      }, withinMs);
    };
    cluster.on("exit", () => {
      if (state.isStopping && workers().length === 0) resolve();
    });
    process.on("SIGINT", stop);
    process.on("SIGTERM", stop);
  });
}

const workers = (): Worker[] => Object.values(cluster.workers ?? {}).filter((one) => one !== undefined);

function start(index: number, isAgain = false): Worker {
  const worker = cluster.fork({ EPISTYLE_WORKER: String(index), EPISTYLE_AGAIN: isAgain ? "1" : "" });
  worker.once("listening", () => listening.add(worker.id));
  worker.once("exit", () => {
    listening.delete(worker.id);
    talks.delete(worker.id);
  });
  talks.set(worker.id, talkTo(worker));
  return worker;
}

function untilReady(worker: Worker): Promise<void> {
  return new Promise((resolve) => {
    worker.once("listening", () => resolve());
    worker.once("exit", () => resolve());
  });
}

// One that is still starting reads everything again, and would end by a signal that it does not know yet.
function signalAll(signal: NodeJS.Signals): void {
  for (const worker of workers())
    if (/^SIG(?:TERM|KILL)$/.test(signal) || listening.has(worker.id)) worker.process.kill(signal);
}

/** The ids of the workers that listen, and the message channel of each worker. */
const listening = new Set<number>();
const talks = new Map<number, WorkerTalk>();

// A worker that dies again and again is started more and more rarely.
function makeReplacer(state: { readonly isStopping: boolean }, tell: (text: string) => void) {
  let pauseMs = PAUSE_MS.first;
  const watch = (worker: Worker, index: number): void => {
    const startedMs = performance.now();
    // While it opens its site, it may have no time to answer.
    const watchBeats = (): void =>
      talks.get(worker.id)?.watchBeats(() => {
        tell(`A worker answers nobody any more (process ${worker.process.pid}), and is ended.`);
        worker.process.kill("SIGKILL");
      });
    if (listening.has(worker.id)) watchBeats();
    else worker.once("listening", watchBeats);
    worker.once("exit", (code, signal) => {
      if (state.isStopping) return;
      if (performance.now() - startedMs > WELL_MS) pauseMs = PAUSE_MS.first;
      tell(`A worker ended (${signal ?? `status ${code}`}); a new one starts in ${pauseMs / 1000} s.`);
      setTimeout(() => {
        if (!state.isStopping) watch(start(index, true), index);
      }, pauseMs);
      pauseMs = Math.min(pauseMs * 2, PAUSE_MS.most);
    });
  };
  return { watch };
}

// A worker that does not answer in time is left out.
async function collectMetrics(): Promise<MetricsSnapshot[]> {
  const all = await Promise.all([...talks.values()].map((talk) => talk.askMetrics()));
  return all.filter((one) => one !== undefined);
}
