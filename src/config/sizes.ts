const UNITS: Readonly<Record<string, number>> = { "": 1, k: 1000, m: 1_000_000 };

/**
 * Reads a size as people write it, in bytes: a number of bytes, or a whole number with a unit (`300KB`, `2MB`), in powers of 1000 as all sizes
 * here are. Undefined when it is neither, or nothing.
 */
export function parseSize(written: string | number): number | undefined {
  if (typeof written === "number") return Number.isSafeInteger(written) && written > 0 ? written : undefined;
  const [, number, unit] = /^(\d{1,9})\s?([km]?)b?$/i.exec(written.trim()) ?? [];
  if (number === undefined || Number(number) === 0) return undefined;
  return Number(number) * UNITS[unit!.toLowerCase()]!;
}
