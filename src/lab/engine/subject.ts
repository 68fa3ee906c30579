import type { SiteConfig } from "../../config/config-types.js";
import type { Told } from "../../config/site-error.js";
import type { CompiledSite } from "../../core/site.js";
import type { Site } from "../../site/site.js";
import type { Position } from "../shapes.js";

/** A site that is looked at from inside, and the text that it was made from. */
export interface Subject {
  readonly compiled: CompiledSite;
  readonly site: Site;
  readonly config: SiteConfig;
  /** Its warnings at startup. */
  readonly warnings: readonly Told[];
  /** Where a key stands in the configuration's text; undefined where it does not, or where there is no text. */
  readonly locate: (path: readonly PropertyKey[]) => Position | undefined;
}
