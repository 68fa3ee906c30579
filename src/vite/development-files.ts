import type { FileSource, Found } from "../core/source.js";

/**
 * What Vite will build, as far as it is there while it is developed: its public folder, and the documents of its root. All other files
 * reach a browser through Vite's transforms alone.
 */
export function developmentFiles(documents: FileSource, publicFiles: FileSource | undefined): FileSource {
  return {
    name: documents.name,
    async open(path) {
      const found = await publicFiles?.open(path);
      if (found !== undefined && found.kind !== "missing" && !(found.kind === "directory" && path === ""))
        return found;
      if (found?.kind === "directory") found.directory.close();
      return openDocument(documents, path);
    },
    diagnose: (path) => documents.diagnose(path),
  };
}

const MISSING: Found = { kind: "missing", because: "no-such-file" };
const isDocument = (name: string): boolean => /\.html?$/i.test(name);

async function openDocument(documents: FileSource, path: string): Promise<Found> {
  const found = await documents.open(path);
  if (found.kind === "file" && !isDocument(path)) {
    found.file.close();
    return MISSING;
  }
  if (found.kind !== "directory" || path === "") return found;
  // A folder of sources is none of the site's.
  const entries = await found.directory.list();
  if ("kind" in entries || entries.some(({ name }) => isDocument(name))) return found;
  found.directory.close();
  return MISSING;
}
