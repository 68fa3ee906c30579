/** Where a value lacks what is wanted of it: the place, and the two values there. */
export interface JsonDifference {
  /** In the notation of RFC 9535: `$.birds[0].name`. */
  readonly place: string;
  readonly expected: unknown;
  /** Undefined when there is nothing. */
  readonly got: unknown;
}

/**
 * Holds a JSON value against a part of it: an object must have the members that are wanted and may have more; a list must
 * have the same length, each entry holding its part; anything else is equal. Undefined when it holds.
 */
export function findJsonDifference(expected: unknown, got: unknown, place = "$"): JsonDifference | undefined {
  if (Array.isArray(expected)) {
    if (!Array.isArray(got)) return { place, expected, got };
    if (got.length !== expected.length) {
      return {
        place,
        expected: `a list of ${expected.length}`,
        got: `a list of ${got.length}`,
      };
    }
    return firstOf(
      expected.map((one, index) => () => findJsonDifference(one, got[index], `${place}[${index}]`)),
    );
  }
  if (isObject(expected)) {
    if (!isObject(got)) return { place, expected, got };
    return firstOf(
      Object.entries(expected).map(
        ([key, one]) =>
          () =>
            findJsonDifference(one, Object.hasOwn(got, key) ? got[key] : undefined, place + formatKey(key)),
      ),
    );
  }
  return expected === got ? undefined : { place, expected, got };
}

function firstOf(tests: readonly (() => JsonDifference | undefined)[]): JsonDifference | undefined {
  for (const test of tests) {
    const found = test();
    if (found !== undefined) return found;
  }
  return undefined;
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function formatKey(key: string): string {
  return /^[A-Za-z_]\w*$/.test(key) ? `.${key}` : `[${JSON.stringify(key)}]`;
}
