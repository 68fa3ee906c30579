import { FolderShapes } from "./shapes.js";
import { readTokens } from "./token.js";

interface ManifestEntry {
  readonly file?: unknown;
  readonly name?: unknown;
  readonly src?: unknown;
  readonly css?: unknown;
  readonly assets?: unknown;
}

/**
 * The fingerprinted names of a manifest of Vite (`build.manifest`): an object a file, with its `file`, the `name` or `src` that it was
 * made from, and the `css` and `assets` that it loads. A build may leave fingerprints out, and the manifest does not say so: a name has one
 * that begins with the entry's own name and a separator, or that ends like the others.
 */
export function readManifest(text: string): ReadonlySet<string> | { readonly problem: string } {
  let entries: unknown;
  try {
    entries = JSON.parse(text);
  } catch (error) {
    return { problem: `it is not JSON (${(error as Error).message})` };
  }
  const made = new Set<string>();
  const all = new Set<string>();
  const shapes = new Set<string>();
  for (const entry of Object.values(entries as Record<string, ManifestEntry | null>)) {
    if (typeof entry !== "object" || entry === null || typeof entry.file !== "string")
      return { problem: "it is no manifest of Vite: each of its entries has a file" };
    for (const one of [entry.file, ...listed(entry.css), ...listed(entry.assets)]) all.add(one);
    const token = tokenBehind(entry.file, entry);
    if (token === undefined) continue;
    made.add(entry.file);
    shapes.add(token);
  }
  const alike = new FolderShapes([...all].map(nameOf));
  for (const one of all) {
    const tokens = readTokens(nameOf(one));
    if (tokens.some(({ separator, text }) => shapes.has(separator + text.length)) || alike.find(nameOf(one)))
      made.add(one);
  }
  return made;
}

const listed = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((one) => typeof one === "string") : [];

const nameOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);

// The kind of the ending that stands behind an entry's own name: a separator, and a length.
function tokenBehind(file: string, { name, src }: ManifestEntry): string | undefined {
  const whole = nameOf(file);
  const stems = [name, src]
    .filter((one) => typeof one === "string")
    .flatMap((one) => [nameOf(one), nameOf(one).replace(/\.[^.]*$/, "")]);
  const token = readTokens(whole).find(
    ({ separator, text }) =>
      separator !== "" && stems.some((stem) => whole.startsWith(stem + separator + text)),
  );
  return token === undefined ? undefined : token.separator + token.text.length;
}
