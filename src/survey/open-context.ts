import type { SiteConfig } from "../config/config-types.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import type { Told } from "../config/site-error.js";
import { assembleSite, compileSite, isDefinition } from "../site/compile-site.js";
import { resolveFolder } from "../sources/earlier-folders.js";
import { SurveyContext } from "./survey-context.js";

/** Compiles a site to be surveyed. Rejects with a SiteError for a configuration that cannot be used. */
export async function openContext(
  definition: SiteDefinition | SiteConfig,
): Promise<{ context: SurveyContext; config: SiteConfig; warnings: Told[] }> {
  const { config } = isDefinition(definition) ? definition : defineSite(definition);
  const { compiled, warnings } = await compileSite(definition, {});
  const context = new SurveyContext(assembleSite(compiled, []), compiled);
  for (const [index, mount] of compiled.mounts.values().entries()) {
    const { folder } = config.mounts[index]!;
    const root = folder === undefined ? undefined : resolveFolder(folder, config.base);
    if (root !== undefined) context.setRoot(mount, root);
  }
  return { context, config, warnings };
}
