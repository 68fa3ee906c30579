import { suggestName } from "../core/text/suggest.js";
import type { Site } from "./site.js";

/** Throws a TypeError that says what to write, where a call wants a site and was given something else. */
export function checkSite(call: string, value: unknown): asserts value is Site {
  const { respond, file, then, mounts, config } = (value ?? {}) as Record<string, unknown>;
  if (typeof respond === "function" && typeof file === "function") return;
  const wrong = (found: string, wanted: string): TypeError =>
    new TypeError(`${call}: found ${found} instead of a site; write ${wanted}.`);
  if (value === undefined || value === null) throw wrong("nothing", `${call}(await openSite(config))`);
  if (typeof then === "function") throw wrong("a promise", `${call}(await openSite(config))`);
  if (mounts !== undefined || config !== undefined)
    throw wrong("a configuration", `${call}(await openSite(config))`);
  if (typeof value === "string")
    throw wrong(
      JSON.stringify(value),
      `${call}(await openSite({ base: import.meta.url, mounts: [{ folder: ${JSON.stringify(value)} }] }))`,
    );
  throw wrong(`a value of type ${typeof value}`, `${call}(await openSite(config))`);
}

/** Throws a TypeError for an unknown option, with the nearest that there is. */
export function checkOptions(call: string, options: unknown, allowed: readonly string[]): void {
  if (typeof options !== "object" || options === null)
    throw new TypeError(
      `${call}: found ${JSON.stringify(options)} instead of options; write { ${allowed[0]}: … }.`,
    );
  for (const key of Object.keys(options)) {
    if (allowed.includes(key)) continue;
    const near = suggestName(key, allowed);
    const wanted =
      near === undefined ? `the options are ${allowed.join(", ")}` : `write ${JSON.stringify(near)}`;
    throw new TypeError(`${call}: found the option ${JSON.stringify(key)}; ${wanted}.`);
  }
}
