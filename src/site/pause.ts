import type { Pause } from "../core/listing/order.js";

/** A timer of no length lets waiting requests go first, on every platform. */
export function makePause(): Pause {
  const { setImmediate: immediate } = globalThis as { setImmediate?: (done: () => void) => void };
  return () => new Promise((resolve) => (immediate ?? setTimeout)(resolve));
}
