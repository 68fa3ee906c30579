/** A size as people read it, in powers of 1000. */
export function formatSize(bytes: number): string {
  const units = ["B", "kB", "MB", "GB", "TB"];
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value.toFixed(unit === 0 || value >= 99.95 ? 0 : 1)} ${units[unit]}`;
}

/** A whole number as people read it, with a comma between each three digits. What the platform has for it takes a hundred times as long. */
export function formatCount(count: number): string {
  return String(count).replace(/\B(?=(?:\d{3})+$)/g, ",");
}

/** A number of things, such as "1 file" and "1,200 files". */
export const countOf = (count: number, one = "file"): string =>
  `${formatCount(count)} ${count === 1 ? one : `${one}s`}`;
