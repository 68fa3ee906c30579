import type { SiteDefinition } from "../../config/define.js";
import { parseWritten, validateWritten } from "../../config/document.js";
import { fileSchema } from "../../config/schema.js";
import { assembleSite, compileSite } from "../../site/compile-site.js";
import type { Position } from "../shapes.js";
import type { Subject } from "./subject.js";

/** The place of a key in a text; undefined where it is not there. */
export type Locate = (path: readonly PropertyKey[]) => Position | undefined;

const NOWHERE: Locate = () => undefined;

/** Opens a site to be looked at from inside. Rejects with a SiteError. */
export async function openSubject(definition: SiteDefinition, locate: Locate = NOWHERE): Promise<Subject> {
  const { compiled, warnings } = await compileSite(definition, {});
  const site = assembleSite(
    compiled,
    warnings.map(({ text }) => text),
  );
  return { compiled, site, warnings, config: definition.config, locate };
}

/** Reads a configuration's text as its file would be read; relative folders in it start from `base`. Throws a SiteError. */
export function readDefinition(
  text: string,
  file: string,
  base: string,
): { definition: SiteDefinition; locate: Locate } {
  const locate = makeLocate(text, file);
  const { $schema: _, ...config } = validateWritten(parseWritten(text, file), fileSchema);
  return { definition: { config: { ...config, base }, file }, locate };
}

/** Where keys are in a text; nowhere in one that cannot be read. */
export function makeLocate(text: string, file: string): Locate {
  try {
    const document = parseWritten(text, file);
    return (path) => (isWritten(document.value, path) ? document.locate(path, true) : undefined);
  } catch {
    return NOWHERE;
  }
}

// What is not written has no place of its own: that of what encloses it would mislead.
function isWritten(value: unknown, path: readonly PropertyKey[]): boolean {
  let at = value;
  for (const key of path) {
    if (typeof at !== "object" || at === null || !(key in at)) return false;
    at = (at as Record<PropertyKey, unknown>)[key];
  }
  return true;
}
