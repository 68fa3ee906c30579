import type { SiteConfig } from "../config/config-types.js";
import type { SiteDefinition } from "../config/define.js";
import { compilePattern } from "../config/patterns.js";
import { SiteError } from "../config/site-error.js";
import type { CompiledSite } from "../core/site.js";
import { checkAwaited, checkOptions } from "./arguments.js";
import { assembleSite, compileSite, isDefinition } from "./compile-site.js";
import { findOtherBytes } from "./earlier.js";
import { inspectMoved } from "./inspect-moved.js";
import { inspectNames } from "./inspect-names.js";
import { emitWarning, later } from "./platform.js";
import { glanceAt } from "./quick-look.js";
import type { OpenOptions, Site, StoreOptions } from "./site.js";
import type { StoredSite } from "./store/stored-site.js";

/**
 * Opens a site from a release store. Without a configuration, the mounts of the release have the default rules. Rejects with a SiteError
 * for what cannot be used, and with a StoreError where the store does not answer.
 */
export async function openSite(
  definition: SiteDefinition | SiteConfig,
  options: StoreOptions,
): Promise<StoredSite>;
export async function openSite(options: StoreOptions): Promise<StoredSite>;
/**
 * Opens a site: checks that every folder is there and can be read, and compiles the rules. Rejects with a SiteError that has
 * one sentence for each thing to fix.
 */
export async function openSite(definition: SiteDefinition | SiteConfig, options?: OpenOptions): Promise<Site>;
export async function openSite(
  first: SiteDefinition | SiteConfig | StoreOptions,
  second: OpenOptions | StoreOptions = {},
): Promise<Site> {
  checkAwaited("openSite", first);
  const [definition, options] = isStoreOptions(first) ? [undefined, first] : [first, second];
  checkOptions("openSite", options, ["seal", "store", "cache", "onNotice"]);
  if (options.store !== undefined) {
    if ("seal" in options && options.seal !== undefined)
      throw new SiteError([
        "openSite: found seal and store; what is in a store is sealed already: leave seal out.",
      ]);
    const { openStoredSite } = await import("./store/stored-site.js");
    return openStoredSite(async () => definition, options);
  }
  if (options === first)
    throw new TypeError('openSite: found store: undefined; write a folder, or "s3://BUCKET/PREFIX".');
  const { compiled, warnings: told, file } = await compileSite(definition as SiteConfig, options);
  const warnings = told.map(({ text }) => (file === undefined ? text : `${file}: ${text}`));
  await warnOfExposed(definition as SiteConfig, compiled, warnings);
  return assembleSite(compiled, warnings);
}

const isStoreOptions = (value: unknown): value is StoreOptions =>
  typeof value === "object" && value !== null && "store" in value && !("mounts" in value);

/** Startup waits this long for a look at what can be reached, in milliseconds; what is found later is told later. */
const LOOK_MS = 40;

// What should not be reachable is told at once, and makes startup fail only where that is asked for.
async function warnOfExposed(
  definition: SiteDefinition | SiteConfig,
  compiled: CompiledSite,
  warnings: string[],
): Promise<void> {
  const { config } = isDefinition(definition) ? definition : { config: definition };
  const mounts = compiled.mounts.values().filter((_, index) => config.mounts[index]?.folder !== undefined);
  const { refuse } = config;
  const meant = typeof refuse === "object" ? refuse.except.map((one) => compilePattern(one).matches) : [];
  const glancing = Promise.all(mounts.map((mount) => glanceAt(mount, { meant }))).then((all) => all.flat());
  if (refuse !== undefined) {
    const found = await glancing;
    if (found.length > 0) throw new SiteError(found);
  }
  const others = Promise.all(compiled.mounts.values().map((mount) => findOtherBytes(mount)));
  const moved = inspectMoved(compiled).then((found) => found.map(({ text }) => text));
  const names = Promise.all(compiled.mounts.values().map((mount) => inspectNames(mount, compiled.pause)));
  const looks = [glancing, others.then((all) => all.flat()), moved, names.then((all) => all.flat())];
  let isLate = false;
  const tell = (found: readonly string[]): void => {
    warnings.push(...found);
    if (isLate) for (const text of found) emitWarning(text);
  };
  // What is found soon does not wait for the rest.
  const told = Promise.all(looks.map((look) => look.then(tell, ignoreFailure)));
  await Promise.race([told, later(LOOK_MS)]);
  isLate = true;
}

// A source of the developer's that rejects is met by the requests.
function ignoreFailure(): void {}
