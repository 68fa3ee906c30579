import { setTimeout as wait } from "node:timers/promises";
import { StoreError } from "./object-store.js";

/** The pause before the second attempt, in milliseconds; each later one is twice as long. */
const FIRST_PAUSE_MS = 100;
const LONGEST_PAUSE_MS = 5000;

/**
 * Tries until it works, with growing pauses, for at most `deadlineMs` together. An attempt gets the time that is left. Rejects with the
 * last failure; one that is not temporary ends it at once.
 */
export async function retrying<Outcome>(
  attempt: (leftMs: number) => Promise<Outcome>,
  deadlineMs: number,
): Promise<Outcome> {
  const until = performance.now() + deadlineMs;
  for (let pauseMs = FIRST_PAUSE_MS; ; pauseMs = Math.min(2 * pauseMs, LONGEST_PAUSE_MS)) {
    try {
      return await attempt(Math.max(1, until - performance.now()));
    } catch (error) {
      if (!(error instanceof StoreError) || !error.isTemporary) throw error;
      // Many that failed together do not come back together.
      const ownMs = pauseMs * (0.5 + Math.random());
      if (performance.now() + ownMs >= until) throw error;
      await wait(ownMs);
    }
  }
}
