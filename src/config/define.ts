import type { SiteConfig } from "./config-types.js";
import { formatProblem, validate } from "./problems.js";
import { siteSchema } from "./schema.js";
import { SiteError } from "./site-error.js";

/** A checked configuration; `openSite` opens it. */
export interface SiteDefinition {
  readonly config: SiteConfig;
  /** The file it was read from, for messages; undefined when it is code. */
  readonly file: string | undefined;
}

/**
 * Checks a configuration written in code. Throws a SiteError with one sentence for each unknown key, wrong type or
 * impossible value, and the nearest correct spelling.
 */
export function defineSite(config: SiteConfig): SiteDefinition {
  const result = validate(siteSchema, config);
  if (!result.ok) throw new SiteError(result.problems.map(formatProblem));
  return { config: result.value, file: undefined };
}
