const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Writes an IMF-fixdate (RFC 9110 §5.6.7) of a time in seconds since the epoch. */
export function formatHttpDate(seconds: number): string {
  return new Date(seconds * 1000).toUTCString();
}

const CLOCK = "(?<hour>\\d{2}):(?<minute>\\d{2}):(?<second>\\d{2})";
const IMF_FIXDATE = new RegExp(
  `^(?<dayName>\\w{3}), (?<day>\\d{2}) (?<month>\\w{3}) (?<year>\\d{4}) ${CLOCK} GMT$`,
);
const RFC850_DATE = new RegExp(
  `^(?<dayName>\\w{6,9}), (?<day>\\d{2})-(?<month>\\w{3})-(?<year>\\d{2}) ${CLOCK} GMT$`,
);
const ASCTIME_DATE = new RegExp(
  `^(?<dayName>\\w{3}) (?<month>\\w{3}) (?<day>[ \\d]\\d) ${CLOCK} (?<year>\\d{4})$`,
);

/**
 * Reads an HTTP-date in any of the three forms of RFC 9110 §5.6.7, as seconds since the epoch; undefined when it is
 * none of them. A two-digit year is taken to be at most 50 years ahead of `nowSeconds`.
 */
export function parseHttpDate(text: string, nowSeconds: number): number | undefined {
  const parts = (IMF_FIXDATE.exec(text) ?? ASCTIME_DATE.exec(text))?.groups;
  if (parts !== undefined) return toSeconds(parts, Number(parts.year));
  const old = RFC850_DATE.exec(text)?.groups;
  return old && toSeconds(old, resolveTwoDigitYear(Number(old.year), nowSeconds));
}

function resolveTwoDigitYear(twoDigits: number, nowSeconds: number): number {
  const thisYear = new Date(nowSeconds * 1000).getUTCFullYear();
  const year = thisYear - (thisYear % 100) + twoDigits;
  return year > thisYear + 50 ? year - 100 : year;
}

function toSeconds(parts: Record<string, string>, year: number): number | undefined {
  const month = MONTHS.indexOf(parts.month!);
  if (month < 0 || !DAYS.includes(parts.dayName!.slice(0, 3))) return undefined;
  const [d, h, m, s] = [parts.day, parts.hour, parts.minute, parts.second].map(Number) as [
    number,
    number,
    number,
    number,
  ];
  const date = new Date(0);
  date.setUTCFullYear(year, month, d);
  if (date.getUTCDate() !== d || d < 1 || h > 23 || m > 59 || s > 60) return undefined;
  return date.getTime() / 1000 + h * 3600 + m * 60 + Math.min(s, 59);
}
