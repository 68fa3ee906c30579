import { own } from "../core/text/own.js";
import { formatCount } from "../core/text/size.js";

const UNITS: Readonly<Record<string, number>> = {
  s: 1,
  m: 60,
  h: 3600,
  d: 86_400,
  w: 604_800,
  y: 31_536_000,
};

/**
 * Reads a duration as people write it, in seconds: a number of seconds, or whole numbers with a unit, the larger first
 * (`90s`, `10m`, `1h30m`, `7d`, `2w`, `1y`). A year has 365 days. Undefined when it is neither.
 */
export function parseDuration(written: string | number): number | undefined {
  if (typeof written === "number") return Number.isSafeInteger(written) && written >= 0 ? written : undefined;
  const text = written.trim();
  if (/^\d+$/.test(text)) return parseDuration(Number(text));
  if (!/^(?:\d+y)?(?:\d+w)?(?:\d+d)?(?:\d+h)?(?:\d+m)?(?:\d+s)?$/.test(text) || text === "") return undefined;
  let seconds = 0;
  for (const [, count, unit] of text.matchAll(/(\d+)([ywdhms])/g)) seconds += Number(count) * UNITS[unit!]!;
  return Number.isSafeInteger(seconds) ? seconds : undefined;
}

const WORDS: readonly (readonly [seconds: number, word: string])[] = [
  [31_536_000, "year"],
  [86_400, "day"],
  [3600, "hour"],
  [60, "minute"],
];

/** Writes seconds as people say them, in the largest unit that divides them: `1 year`, `90 minutes`, `45 seconds`. */
export function formatDuration(seconds: number): string {
  const [size, word] = WORDS.find(([size]) => seconds >= size && seconds % size === 0) ?? [1, "second"];
  const count = seconds / size;
  return `${formatCount(count)} ${word}${count === 1 ? "" : "s"}`;
}

const NAMES: Readonly<Record<string, string>> = {
  second: "s",
  minute: "m",
  hour: "h",
  day: "d",
  week: "w",
  year: "y",
};

/** Reads a duration in words, in seconds: what `parseDuration` reads, and `10 minutes`, `1 year`, `30 days`. */
export function parseSpokenDuration(text: string): number | undefined {
  const match = /^(\d+) (second|minute|hour|day|week|year)s?$/.exec(text);
  return parseDuration(match === null ? text : match[1]! + own(NAMES, match[2]!)!);
}
