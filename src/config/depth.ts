import { SiteError } from "./site-error.js";

/** Deeper than anything that a person or a browser writes. */
const DEEPEST = 100;

/**
 * Throws a SiteError for a value that is nested too deeply, or contains itself through an anchor of YAML. Never goes as deep as
 * the value itself.
 */
export function checkDepth(value: unknown, file: string): void {
  let level: unknown[] = [value];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > DEEPEST)
      throw new SiteError(
        [
          `values are nested more than ${DEEPEST} levels deep, or an alias is inside its own anchor; write fewer levels.`,
        ],
        file,
      );
    // What an alias stands for is looked at once a level: many of them make a value wide, and none makes it deep.
    const next = new Set<unknown>();
    for (const one of level)
      if (typeof one === "object" && one !== null) for (const inner of Object.values(one)) next.add(inner);
    level = [...next];
  }
}
