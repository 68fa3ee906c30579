/** Work that stops now and then, so that what waits can go first. It returns its result at the end. */
export type Slices<Result> = Generator<void, Result>;

/** How long work may hold up others, in milliseconds: after that they go first. */
const SLICE_MS = 4;

/** Does the work in slices: between two of them, waiting requests are answered. */
export async function inSlices<Result>(work: Slices<Result>): Promise<Result> {
  const { setImmediate: immediate } = globalThis as { setImmediate?: (done: () => void) => void };
  let begun = performance.now();
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    if (performance.now() - begun < SLICE_MS) continue;
    await new Promise<void>((resolve) => (immediate ?? setTimeout)(resolve));
    begun = performance.now();
  }
}

/**
 * For loops that read very much: gives a promise to wait for when others waited long enough, else undefined. Whoever reads where
 * nobody can wait gives its own pause.
 */
export function makeRests(pause: () => Promise<void>): () => Promise<void> | undefined {
  let begun = performance.now();
  return () => {
    if (performance.now() - begun < SLICE_MS) return undefined;
    return pause().then(() => {
      begun = performance.now();
    });
  };
}

/** Does the work at once: for programs that answer nobody meanwhile. */
export function atOnce<Result>(work: Slices<Result>): Result {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}
