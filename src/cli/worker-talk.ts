import type { Worker } from "node:cluster";
import type { MetricsSnapshot } from "../adapters/metrics.js";

/** How often a worker is asked whether it is well, in milliseconds. */
const BEAT_MS = 1000;
/** A worker that misses this many heartbeats in a row hangs: it answers nobody. */
const MISSED_AT_MOST = 15;
/** How long metrics of a worker are waited for, in milliseconds. */
const METRICS_MS = 1000;

/** What who started a worker says to it, and hears from it. */
export interface WorkerTalk {
  /** Its metrics; undefined from one that does not answer in time, is ending or has gone. */
  askMetrics(): Promise<MetricsSnapshot | undefined>;
  /** From now on it is asked whether it is well. `onHung` is called once, if it does not answer. */
  watchBeats(onHung: () => void): void;
}

/** What a worker answers to. */
export interface WorkerMessage {
  readonly beat?: true;
  readonly metrics?: MetricsSnapshot;
}

/** Talks with a worker: one listener and at most one question of each kind under way, however often it is asked. */
export function talkTo(worker: Worker): WorkerTalk {
  let waiting: ((metrics: MetricsSnapshot | undefined) => void)[] = [];
  let [isAsked, missed] = [false, 0];
  let beats: NodeJS.Timeout | undefined;
  const answer = (metrics: MetricsSnapshot | undefined): void => {
    const all = waiting;
    waiting = [];
    for (const tell of all) tell(metrics);
  };
  // A worker may go at any moment: that a message cannot be sent is no error of ours.
  const send = (message: string): void => {
    if (worker.isConnected()) worker.process.send!(message, undefined, undefined, () => {});
  };
  worker.on("message", ({ beat, metrics }: WorkerMessage) => {
    if (beat) missed = 0;
    if (metrics === undefined) return;
    isAsked = false;
    answer(metrics);
  });
  worker.on("error", () => {});
  worker.once("exit", () => {
    clearInterval(beats);
    answer(undefined);
  });
  return {
    askMetrics: () =>
      new Promise((resolve) => {
        if (!worker.isConnected()) {
          resolve(undefined);
          return;
        }
        const limit = setTimeout(() => {
          waiting = waiting.filter((one) => one !== tell);
          resolve(undefined);
        }, METRICS_MS);
        const tell = (metrics: MetricsSnapshot | undefined): void => {
          clearTimeout(limit);
          resolve(metrics);
        };
        waiting.push(tell);
        if (!isAsked) send("metrics");
        isAsked = true;
      }),
    watchBeats(onHung) {
      beats = setInterval(() => {
        if (++missed <= MISSED_AT_MOST) return send("beat");
        clearInterval(beats);
        onHung();
      }, BEAT_MS);
      beats.unref();
    },
  };
}

/** The other end: a worker answers while its event loop turns. */
export function answerBeats(): void {
  process.on("message", (message) => {
    if (message === "beat" && process.connected)
      process.send!({ beat: true }, undefined, undefined, () => {});
  });
}
