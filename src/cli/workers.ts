import cluster, { type Worker } from "node:cluster";
import { availableParallelism } from "node:os";
import { InvalidArgumentError } from "commander";
import { type FiguresSnapshot, formatFigures } from "../adapters/figures.js";
import { listenForFigures } from "../adapters/server/figures-port.js";
import { clearSocket } from "../adapters/server/place.js";
import { openTerminal } from "./terminal.js";

/** How long a worker that died is waited for before another takes its place, in milliseconds: doubled each time, up to a bound. */
const PAUSE_MS = { first: 100, most: 30_000 };
/** A worker that lived so long was well, in milliseconds. */
const WELL_MS = 60_000;
/** How long figures of a worker are waited for, in milliseconds. */
const FIGURES_MS = 1000;

export interface WorkersOptions {
  readonly count: number;
  readonly socket: string | undefined;
  readonly figures: { readonly port: number; readonly host?: string | undefined } | undefined;
}

/** Reads how many workers: a number, or auto for one on each processor. */
export function parseWorkers(text: string): number {
  const count = text === "auto" ? availableParallelism() : Number(text);
  if (/^(?:auto|\d{1,3})$/.test(text) && count >= 1 && count <= 128) return count;
  throw new InvalidArgumentError("Write how many workers, from 1 to 128, or auto for one per processor.");
}

/**
 * Runs this very command in several processes that listen on one address. A worker that dies is replaced; signals are passed on to all.
 * Resolves when all have stopped. The first worker starts alone: what is wrong is told once, and ends everything.
 */
export async function runWorkers({ count, socket, figures }: WorkersOptions): Promise<void> {
  if (socket !== undefined) await clearSocket(socket);
  const people = openTerminal(process.stderr);
  const state = { isStopping: false };
  const first = start(0);
  const failure = await new Promise<number | undefined>((resolve) => {
    first.once("listening", () => resolve(undefined));
    first.once("exit", (code) => resolve(code ?? 1));
  });
  if (failure !== undefined) {
    process.exitCode = failure;
    return;
  }
  const told =
    figures && (await listenForFigures(figures, async () => formatFigures(await collectFigures())));
  const replace = makeReplacer(state, (text) => people.print(text));
  replace.watch(first, 0);
  const others = Array.from({ length: count - 1 }, (_, index) => start(index + 1));
  for (const [index, worker] of others.entries()) replace.watch(worker, index + 1);
  // Until all listen, the death of one may leave nobody who does.
  void Promise.all(others.map(untilReady)).then(() => people.print(`${count} workers`));

  for (const signal of ["SIGHUP", "SIGUSR2"] as const) process.on(signal, () => signalAll(signal));
  await new Promise<void>((resolve) => {
    const stop = (): void => {
      if (state.isStopping) process.exit(130);
      state.isStopping = true;
      signalAll("SIGTERM");
      if (workers().length === 0) resolve();
    };
    cluster.on("exit", () => {
      if (state.isStopping && workers().length === 0) resolve();
    });
    process.on("SIGINT", stop);
    process.on("SIGTERM", stop);
  });
  told?.close();
  told?.closeAllConnections();
  process.exit(0);
}

const workers = (): Worker[] => Object.values(cluster.workers ?? {}).filter((one) => one !== undefined);

function start(index: number, isAgain = false): Worker {
  const worker = cluster.fork({ EPISTYLE_WORKER: String(index), EPISTYLE_AGAIN: isAgain ? "1" : "" });
  worker.once("listening", () => listening.add(worker.id));
  worker.once("exit", () => listening.delete(worker.id));
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
    if (signal === "SIGTERM" || listening.has(worker.id)) worker.process.kill(signal);
}

/** The workers that listen, by their numbers. */
const listening = new Set<number>();

// A worker that dies again and again is started more and more rarely.
function makeReplacer(state: { readonly isStopping: boolean }, tell: (text: string) => void) {
  let pauseMs = PAUSE_MS.first;
  const watch = (worker: Worker, index: number): void => {
    const startedMs = performance.now();
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
async function collectFigures(): Promise<FiguresSnapshot[]> {
  const all = await Promise.all(
    workers().map(
      (worker) =>
        new Promise<FiguresSnapshot | undefined>((resolve) => {
          const limit = setTimeout(() => resolve(undefined), FIGURES_MS);
          worker.once("message", (message: { figures?: FiguresSnapshot }) => {
            clearTimeout(limit);
            resolve(message.figures);
          });
          worker.send("figures");
        }),
    ),
  );
  return all.filter((one) => one !== undefined);
}
