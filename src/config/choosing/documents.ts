import { lookAt } from "../../core/resolve/look.js";
import { selectRules } from "../../core/rules/mount.js";
import { trimSlashes } from "../paths.js";
import type { Finding, InspectedPlace } from "../rule.js";

/** Looks at a document that a rule names: it must not be withheld, and it should be there. `until` says what happens if not. */
export async function inspectDocument(
  written: string,
  key: string,
  until: string,
  { mount, area, where }: InspectedPlace,
): Promise<Finding[]> {
  const path = trimSlashes(written);
  const withheldBy = selectRules(mount, area).withheld.by(path);
  if (withheldBy !== undefined) {
    const text = `${where}.${key}: found "${written}", which is withheld (${withheldBy}) and never sent; name another document.`;
    return [{ severity: "error", text, key: `${where}.${key}` }];
  }
  if ((await lookAt(mount.source, path)) === "file") return [];
  const text = `${where}.${key}: there is no ${path} in ${mount.source.name}; until there is, ${until}.`;
  return [{ severity: "warning", text, key: `${where}.${key}` }];
}
