/** Lets other work have its turn; resolves when it has. */
export type Pause = () => Promise<void>;

/** How many keys are sorted or merged between two pauses: a few milliseconds' work. */
const STEP = 4096;

/**
 * The key that puts names in natural order by plain comparison of texts: case folded, accents after the letter they belong to,
 * and numbers by their value (record-2 before record-10), because each is preceded by the count of its digits.
 */
export function makeNameKey(name: string): string {
  const lower = ASCII.test(name) ? name.toLowerCase() : name.normalize("NFKD").toLowerCase();
  let key = "";
  let done = 0;
  for (let i = 0; i < lower.length; i++) {
    if (!isDigit(lower.charCodeAt(i))) continue;
    let end = i + 1;
    while (end < lower.length && isDigit(lower.charCodeAt(end))) end++;
    key += lower.slice(done, i) + padNumber(lower.slice(i, end));
    done = end;
    i = end;
  }
  return `${key}${lower.slice(done)}\0${name}`;
}

const ASCII = /^[\x00-\x7f]*$/;
const isDigit = (code: number): boolean => code >= 0x30 && code <= 0x39;

function padNumber(digits: string): string {
  const value = digits.charCodeAt(0) === 0x30 ? digits.replace(/^0+(?=\d)/, "") : digits;
  // The count of digits, written so that longer counts come later: 1–9, then "a" and two digits.
  const count = value.length < 10 ? String(value.length) : `9a${String(value.length).padStart(4, "0")}`;
  return `${count}${value}`;
}

/**
 * The indexes of `keys` in ascending order, without holding up the process: runs are sorted and merged in steps with pauses
 * between them. Equal keys keep their order.
 */
export async function sortIndexes(keys: readonly (string | number)[], pause: Pause): Promise<Uint32Array> {
  let from = Uint32Array.from(keys, (_, i) => i);
  for (let start = 0; start < from.length; start += STEP) {
    from.subarray(start, start + STEP).sort((a, b) => compareKeys(keys[a]!, keys[b]!) || a - b);
    if (from.length > STEP) await pause();
  }
  let to = new Uint32Array(from.length);
  for (let width = STEP; width < from.length; width *= 2) {
    for (let start = 0; start < from.length; start += 2 * width) {
      const middle = Math.min(start + width, from.length);
      const end = Math.min(start + 2 * width, from.length);
      await merge(keys, { from, to }, { start, middle, end }, pause);
    }
    [from, to] = [to, from];
  }
  return from;
}

/**
 * The indexes of the `count` smallest of `total` keys in ascending order: for the first page of a large directory, which need
 * not wait until all the others are in order. A key is made when it is looked at, and let go unless it is among them.
 */
export async function selectFirst(
  { total, keyOf }: { readonly total: number; readonly keyOf: (i: number) => string },
  count: number,
  pause: Pause,
): Promise<Uint32Array> {
  const first: number[] = [];
  const keys: string[] = [];
  for (let i = 0; i < total; i++) {
    if (i % STEP === STEP - 1) await pause();
    const key = keyOf(i);
    if (first.length === count && key >= keys[count - 1]!) continue;
    let [low, high] = [0, first.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (keys[middle]! <= key) low = middle + 1;
      else high = middle;
    }
    first.splice(low, 0, i);
    keys.splice(low, 0, key);
    if (first.length > count) {
      first.pop();
      keys.pop();
    }
  }
  return Uint32Array.from(first);
}

async function merge(
  keys: readonly (string | number)[],
  { from, to }: { readonly from: Uint32Array; readonly to: Uint32Array },
  { start, middle, end }: { readonly start: number; readonly middle: number; readonly end: number },
  pause: Pause,
): Promise<void> {
  let [left, right] = [start, middle];
  for (let at = start; at < end; at++) {
    const takeLeft =
      right >= end || (left < middle && compareKeys(keys[from[left]!]!, keys[from[right]!]!) <= 0);
    to[at] = takeLeft ? from[left++]! : from[right++]!;
    if ((at - start) % (4 * STEP) === 4 * STEP - 1) await pause();
  }
}

function compareKeys(a: string | number, b: string | number): number {
  return a < b ? -1 : a > b ? 1 : 0;
}
