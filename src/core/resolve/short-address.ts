import { formatQuery, formatSegment } from "../request/target.js";
import { isSamePlace, type Place } from "../rules/place.js";
import type { OpenFiles } from "./open-files.js";

/**
 * The shorter address of a file that was found by its own name, as a relative reference: its directory's, for the default
 * document that answers there, or the name without an implied extension. Undefined when another file answers at that address.
 */
export async function findShortAddress(files: OpenFiles, place: Place): Promise<string | undefined> {
  const { path, rules, target } = place;
  const slash = path.lastIndexOf("/");
  const [folder, name] = [path.slice(0, slash + 1), path.slice(slash + 1)];
  const before = takeUntil(rules.defaultDocuments, name);
  if (
    before !== undefined &&
    (await noneIsThere(
      files,
      before.map((other) => folder + other),
    ))
  )
    return `./${formatQuery(target.query)}`;

  const extension = rules.impliedExtensions.find((one) => name.endsWith(one) && name.length > one.length);
  if (extension === undefined) return undefined;
  const stem = name.slice(0, -extension.length);
  if (stem.endsWith(extension) || !isSamePlace(place, folder + stem)) return undefined;
  // The exact file goes before every implied extension, and those before ours go before it.
  const others = ["", ...takeUntil(rules.impliedExtensions, extension)!];
  const isOurs = await noneIsThere(
    files,
    others.map((other) => folder + stem + other),
  );
  return isOurs ? `./${formatSegment(stem)}${formatQuery(target.query)}` : undefined;
}

/** What stands in a list before an entry; undefined when the entry is not in it. */
function takeUntil(list: readonly string[], entry: string): readonly string[] | undefined {
  const at = list.indexOf(entry);
  return at < 0 ? undefined : list.slice(0, at);
}

async function noneIsThere(files: OpenFiles, paths: readonly string[]): Promise<boolean> {
  for (const path of paths) {
    const { kind } = await files.open(path, "shorter address");
    if (kind === "file" || kind === "error") return false;
  }
  return true;
}
