import type { Worker } from "node:cluster";
import type { FiguresSnapshot } from "../adapters/figures.js";

/** How often a worker is asked whether it is well, in milliseconds. */
const BEAT_MS = 1000;
/** A worker that missed so many in a row hangs: it answers nobody. */
const MISSED_AT_MOST = 15;
/** How long figures of a worker are waited for, in milliseconds. */
const FIGURES_MS = 1000;

/** What who started a worker says to it, and hears from it. */
export interface WorkerTalk {
  /** Its figures; undefined from one that does not answer in time, is ending or has gone. */
  askFigures(): Promise<FiguresSnapshot | undefined>;
  /** From now on it is asked whether it is well. `onHung` is called once, if it does not answer. */
  watchBeats(onHung: () => void): void;
}

/** What a worker answers to. */
export interface WorkerMessage {
  readonly beat?: true;
  readonly figures?: FiguresSnapshot;
}

/** Talks with a worker: one listener and at most one question of each kind under way, however often it is asked. */
export function talkTo(worker: Worker): WorkerTalk {
  let waiting: ((figures: FiguresSnapshot | undefined) => void)[] = [];
  let [isAsked, missed] = [false, 0];
  let beats: NodeJS.Timeout | undefined;
  const answer = (figures: FiguresSnapshot | undefined): void => {
    const all = waiting;
    waiting = [];
    for (const tell of all) tell(figures);
  };
  // A worker may go at any moment: that a message cannot be sent is no error of ours.
  const send = (message: string): void => {
    if (worker.isConnected()) worker.process.send!(message, undefined, undefined, () => {});
  };
  worker.on("message", ({ beat, figures }: WorkerMessage) => {
    if (beat) missed = 0;
    if (figures === undefined) return;
    isAsked = false;
    answer(figures);
  });
  worker.on("error", () => {});
  worker.once("exit", () => {
    clearInterval(beats);
    answer(undefined);
  });
  return {
    askFigures: () =>
      new Promise((resolve) => {
        if (!worker.isConnected()) {
          resolve(undefined);
          return;
        }
        const limit = setTimeout(() => {
          waiting = waiting.filter((one) => one !== tell);
          resolve(undefined);
        }, FIGURES_MS);
        const tell = (figures: FiguresSnapshot | undefined): void => {
          clearTimeout(limit);
          resolve(figures);
        };
        waiting.push(tell);
        if (!isAsked) send("figures");
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
