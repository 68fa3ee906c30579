import { formatFound } from "../config/found.js";
import { own } from "../core/text/own.js";
import { suggestName } from "../core/text/suggest.js";
import type { Site } from "./site.js";

const isPromise = (value: unknown): boolean =>
  typeof (value as { then?: unknown } | null | undefined)?.then === "function";

/** Throws a TypeError that says what to write, where a call needs a site and was given something else. */
export function checkSite(call: string, value: unknown): asserts value is Site {
  const { respond, file, mounts, config } = (value ?? {}) as Record<string, unknown>;
  if (typeof respond === "function" && typeof file === "function") return;
  const opened = `${call}(await openSite(config))`;
  const wrong = (found: string, wanted: string): TypeError =>
    new TypeError(`${call}: found ${found} instead of a site; write ${wanted}.`);
  if (mounts !== undefined || config !== undefined) throw wrong("a configuration", opened);
  if (typeof value === "string")
    throw wrong(
      JSON.stringify(value),
      `${call}(await openSite({ base: import.meta.url, mounts: [{ folder: ${JSON.stringify(value)} }] }))`,
    );
  throw wrong(isPromise(value) ? "a promise" : formatFound(value), opened);
}

/** Throws a TypeError where a call needs a configuration, and was given a promise of one. */
export function checkAwaited(call: string, value: unknown): void {
  if (isPromise(value))
    throw new TypeError(`${call}: found a promise instead of a configuration; write ${call}(await …).`);
}

/** What an option may be: whether a value is right, and what to write otherwise. */
interface OptionKind {
  readonly isRight: (value: unknown) => boolean;
  readonly wanted: string;
}

const kind = (wanted: string, isRight: (value: unknown) => boolean): OptionKind => ({ isRight, wanted });
const isCount = (value: unknown): boolean => Number.isInteger(value) && (value as number) > 0;
const isGroup = (value: unknown): boolean => typeof value === "object" && value !== null;
const onOff = kind("true or false", (value) => typeof value === "boolean");

/** The options of all calls that a wrong value would only break later. The others say themselves what they want. */
const KINDS: Readonly<Record<string, OptionKind>> = {
  cache: kind(
    'a folder and a number of bytes: { folder: "./cache", bytes: 2e9 }',
    (value) =>
      isGroup(value) &&
      typeof (value as { folder?: unknown }).folder === "string" &&
      isCount((value as { bytes?: unknown }).bytes),
  ),
  file: kind('a path such as "site.log"', (value) => typeof value === "string" && value !== ""),
  metrics: kind(
    'a path such as "/health/metrics", or { port: 9100 }',
    (value) => typeof value === "string" || (isGroup(value) && "port" in (value as object)),
  ),
  maxConnections: kind("a whole number from 1 up", isCount),
  mayPass: onOff,
  onNotice: kind("a function: (text) => { … }", (value) => typeof value === "function"),
  onResponse: kind("a function: (record) => { … }", (value) => typeof value === "function"),
  redactQuery: onOff,
  requestIds: onOff,
  saveAs: kind(
    'a file name such as "Season.pdf", or true',
    (value) => value === true || typeof value === "string",
  ),
  seal: kind(
    "true, or the path of a seal file",
    (value) => typeof value === "boolean" || typeof value === "string",
  ),
  serverTiming: onOff,
  stalledAfterSeconds: kind("a number of seconds above 0", (value) => typeof value === "number" && value > 0),
  store: kind('a folder, or "s3://BUCKET/PREFIX"', (value) => typeof value === "string" && value !== ""),
  tls: kind('{ cert: "cert.pem", key: "key.pem" }', isGroup),
};

/** Throws a TypeError for an unknown option, with the nearest that there is, and for a value of the wrong kind. */
export function checkOptions(call: string, options: unknown, allowed: readonly string[]): void {
  if (typeof options !== "object" || options === null)
    throw new TypeError(
      `${call}: found ${formatFound(options)} instead of options; write { ${allowed[0]}: … }.`,
    );
  for (const [key, value] of Object.entries(options)) {
    const found = `${call}: found the option ${JSON.stringify(key)}`;
    if (!allowed.includes(key)) {
      const near = suggestName(key, allowed);
      const wanted =
        near === undefined ? `the options are ${allowed.join(", ")}` : `write ${JSON.stringify(near)}`;
      throw new TypeError(`${found}; ${wanted}.`);
    }
    const wanted = own(KINDS, key);
    if (value !== undefined && wanted !== undefined && !wanted.isRight(value))
      throw new TypeError(`${call}: found ${key}: ${formatFound(value)}; write ${wanted.wanted}.`);
  }
}
