import type { Expectation } from "./expectation-types.js";

type Keyed = Record<string, unknown>;

/**
 * Lays an expectation over the one of its group: fields by name, the body by key, the rest by key. What the own one takes back with
 * `except` is left out of the group's.
 */
export function mergeExpectations(shared: Expectation = {}, own: Expectation = {}): Expectation {
  const { except, ...said } = own;
  const merged: Expectation = { ...takeBack(shared, [except ?? []].flat()), ...said };
  delete merged.except;
  const left = takeBack(shared, [except ?? []].flat());
  if (left.headers !== undefined && said.headers !== undefined) {
    const names = new Set(Object.keys(said.headers).map((name) => name.toLowerCase()));
    const rest = Object.entries(left.headers).filter(([name]) => !names.has(name.toLowerCase()));
    merged.headers = { ...Object.fromEntries(rest), ...said.headers };
  }
  if (left.body !== undefined && said.body !== undefined) merged.body = { ...left.body, ...said.body };
  return merged;
}

function takeBack(shared: Expectation, except: readonly string[]): Expectation {
  const left: Keyed = { ...shared };
  for (const key of except) {
    const [outer, inner] = splitKey(key);
    if (inner === undefined) delete left[outer];
    else if (typeof left[outer] === "object" && left[outer] !== null) {
      const kept = Object.entries(left[outer]).filter(([name]) => name.toLowerCase() !== inner.toLowerCase());
      if (kept.length === 0) delete left[outer];
      else left[outer] = Object.fromEntries(kept);
    }
  }
  return left as Expectation;
}

/** What an expectation takes back that its group does not expect: undefined when all is there. */
export function findVainException(
  shared: Expectation = {},
  { except }: Expectation = {},
): string | undefined {
  return [except ?? []].flat().find((key) => {
    const [outer, inner] = splitKey(key);
    const value = (shared as Keyed)[outer];
    if (inner === undefined || value === undefined) return value === undefined;
    return !Object.keys(value as Keyed).some((name) => name.toLowerCase() === inner.toLowerCase());
  });
}

function splitKey(key: string): [outer: string, inner: string | undefined] {
  const dot = key.indexOf(".");
  return dot < 0 ? [key, undefined] : [key.slice(0, dot), key.slice(dot + 1)];
}
