/**
 * How long what takes, in milliseconds, for everybody who shares a store: they depend on one another. A table that tests shorten.
 */
export const TIMES = {
  /** Servers look at the pointer this often. */
  lookEvery: 2000,
  /** A release is announced for longer than that before it is present: a busy server looks late, and reads the release's seal. */
  announced: 5000,
  /** What was removed from the pointer is removed from the store after longer than that. */
  letGo: 8000,
  /** A look at the pointer may take this long. */
  lookDeadline: 10_000,
  /** A visitor waits this long for the store. */
  deadline: 8000,
  /** After somebody waited in vain, nobody waits for this long. */
  rest: 2000,
  /** An object store lets everybody read what was written within this time. */
  settles: 1000,
  /** A publisher says that it is at work this often. */
  beat: 3000,
  /** A publisher that said nothing for this long is gone. */
  gone: 15_000,
  /** Nobody but a publisher waits for this. */
  patient: 60_000,
};
