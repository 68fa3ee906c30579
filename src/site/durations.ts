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
  if (/^\d+$/.test(text)) return Number(text);
  if (!/^(?:\d+y)?(?:\d+w)?(?:\d+d)?(?:\d+h)?(?:\d+m)?(?:\d+s)?$/.test(text) || text === "") return undefined;
  let seconds = 0;
  for (const [, count, unit] of text.matchAll(/(\d+)([ywdhms])/g)) seconds += Number(count) * UNITS[unit!]!;
  return Number.isSafeInteger(seconds) ? seconds : undefined;
}
