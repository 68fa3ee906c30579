import type { WrittenDocument } from "../../config/document.js";
import { SiteError, type Told } from "../../config/site-error.js";
import { suggestName } from "../../core/text/suggest.js";

const USE = /\$\{([^}]*)\}/g;
/** A variable that is always there, for a text that has a dollar sign and a brace itself. */
const DOLLAR = "dollar";

/**
 * Puts variables in: `${name}` in any text of the value becomes the variable's; `${dollar}` is a dollar sign. Throws a SiteError
 * with file, line and column for a name that is not known. The key `variables` itself is left as it is.
 */
export function substitute(
  document: WrittenDocument,
  variables: ReadonlyMap<string, string>,
): WrittenDocument {
  const problems: Told[] = [];
  const remembered = listRemembered(document.value);
  const replace = (text: string, path: readonly PropertyKey[], aboutKey: boolean): string =>
    text.replace(USE, (whole, name: string) => {
      if (name === DOLLAR) return "$";
      const value = variables.get(name);
      if (value !== undefined) return value;
      // Known once the answer that it is taken from is there.
      if (remembered.has(name) && path.includes("next")) return whole;
      const near = suggestName(name, [...variables.keys()]);
      problems.push({
        at: document.locate(path, aboutKey),
        text: `found \${${name}}; ${remembered.has(name) ? "a remembered value is only known in the requests of next: use it there" : near === undefined ? `the variables are ${[...variables.keys()].join(", ")}: write one of them, or add it to variables` : `write \${${near}}`}.`,
      });
      return whole;
    });
  const walk = (value: unknown, path: readonly PropertyKey[]): unknown => {
    if (typeof value === "string") return replace(value, path, false);
    if (Array.isArray(value)) return value.map((one, index) => walk(one, [...path, index]));
    if (typeof value !== "object" || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, one]) => {
        const at = [...path, key];
        return [key, path.length === 0 && key === "variables" ? one : walk(one, at)];
      }),
    );
  };
  const value = walk(document.value, []);
  if (problems.length > 0) throw new SiteError(problems, document.file);
  return { ...document, value };
}

/** The names under `remember`, wherever they stand. */
function listRemembered(value: unknown, names = new Set<string>()): Set<string> {
  if (typeof value !== "object" || value === null) return names;
  for (const [key, one] of Object.entries(value)) {
    if (key === "remember" && typeof one === "object" && one !== null)
      for (const name of Object.keys(one)) names.add(name);
    listRemembered(one, names);
  }
  return names;
}
