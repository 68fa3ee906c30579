import type { FileSource } from "../source.js";

/** What a source has under a name, as its `open` tells: for start checks and explanations. Keeps nothing open. */
export async function lookAt(source: FileSource, path: string): Promise<"file" | "directory" | "absent"> {
  const found = await source.open(path);
  if (found.kind === "file") found.file.close();
  if (found.kind === "directory") found.directory.close();
  return found.kind === "file" || found.kind === "directory" ? found.kind : "absent";
}
