const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Writes an IMF-fixdate (RFC 9110 §5.6.7) of a time in seconds since the epoch. */
export function formatHttpDate(seconds: number): string {
  return new Date(seconds * 1000).toUTCString();
}

const IMF_FIXDATE = /^(\w{3}), (\d{2}) (\w{3}) (\d{4}) (\d{2}):(\d{2}):(\d{2}) GMT$/;
const RFC850_DATE = /^(\w{6,9}), (\d{2})-(\w{3})-(\d{2}) (\d{2}):(\d{2}):(\d{2}) GMT$/;
const ASCTIME_DATE = /^(\w{3}) (\w{3}) ([ \d]\d) (\d{2}):(\d{2}):(\d{2}) (\d{4})$/;

/**
 * Reads an HTTP-date in any of the three forms of RFC 9110 §5.6.7, as seconds since the epoch; undefined when it is
 * none of them. A two-digit year is taken to be at most 50 years ahead of `nowSeconds`.
 */
export function parseHttpDate(text: string, nowSeconds: number): number | undefined {
  let parts = IMF_FIXDATE.exec(text);
  if (parts) return toSeconds(parts[1]!, parts[4]!, parts[3]!, parts[2]!, parts[5]!, parts[6]!, parts[7]!);
  parts = RFC850_DATE.exec(text);
  if (parts) {
    const year = String(resolveTwoDigitYear(Number(parts[4]), nowSeconds));
    return toSeconds(parts[1]!.slice(0, 3), year, parts[3]!, parts[2]!, parts[5]!, parts[6]!, parts[7]!);
  }
  parts = ASCTIME_DATE.exec(text);
  if (parts) return toSeconds(parts[1]!, parts[7]!, parts[2]!, parts[3]!, parts[4]!, parts[5]!, parts[6]!);
  return undefined;
}

function resolveTwoDigitYear(twoDigits: number, nowSeconds: number): number {
  const thisYear = new Date(nowSeconds * 1000).getUTCFullYear();
  const year = thisYear - (thisYear % 100) + twoDigits;
  return year > thisYear + 50 ? year - 100 : year;
}

function toSeconds(
  dayName: string,
  year: string,
  monthName: string,
  day: string,
  hour: string,
  minute: string,
  second: string,
): number | undefined {
  const month = MONTHS.indexOf(monthName);
  if (month < 0 || !DAYS.includes(dayName)) return undefined;
  const [d, h, m, s] = [Number(day), Number(hour), Number(minute), Number(second)];
  const date = new Date(0);
  date.setUTCFullYear(Number(year), month, d);
  if (date.getUTCDate() !== d || d < 1 || h > 23 || m > 59 || s > 60) return undefined;
  return date.getTime() / 1000 + h * 3600 + m * 60 + Math.min(s, 59);
}
