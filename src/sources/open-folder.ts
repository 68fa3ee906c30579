import { readdir, realpath, stat } from "node:fs/promises";
import { basename, dirname, isAbsolute, relative, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import type { Memory } from "../core/memory/memory.js";
import type { FileSource } from "../core/source.js";
import { suggestName } from "../core/text/suggest.js";
import { checkSearchable, describeProcess } from "./diagnose.js";
import { folderSource, openFolderStores } from "./folder.js";
import { LinkedRoot } from "./linked-root.js";
import type { LinkPolicy } from "./links.js";
import { isLocalFileSystem } from "./local-file-system.js";

export interface OpenFolderOptions {
  /** The key that names the folder, for messages. */
  readonly where: string;
  /** What a relative folder starts from: the URL of a module (its folder is meant) or the absolute path of a folder. */
  readonly base: string | URL | undefined;
  readonly links: LinkPolicy;
  /** Where what is remembered is counted. */
  readonly memory: Memory;
}

/** Makes a source of a folder that is there and can be read; otherwise a sentence that says what to fix. */
export async function openFolder(
  folder: string,
  { where, base, links, memory }: OpenFolderOptions,
): Promise<FileSource | string> {
  const found = `${where}: found ${JSON.stringify(folder)}`;
  const start = base === undefined ? undefined : toFolder(base);
  if (!isAbsolute(folder) && start === undefined) {
    return base === undefined
      ? `${found}, a relative folder, but it is unknown what it is relative to; write base: import.meta.url (in CommonJS, base: __dirname) beside mounts.`
      : `base: found ${JSON.stringify(String(base))}; write import.meta.url, or the absolute path of a folder.`;
  }
  const path = resolve(start ?? "", folder);
  if (start !== undefined && (await isFile(start)))
    return `base: found ${JSON.stringify(String(base))}, which is a file; write import.meta.url, or the folder: import.meta.dirname.`;
  try {
    if (!(await stat(path)).isDirectory()) {
      return `${found}, which is a file; a mount serves a folder: write ${JSON.stringify(dirname(folder))} to serve its folder.`;
    }
    await readdir(path);
    await checkSearchable(path);
  } catch (error) {
    return explainFailure(error as NodeJS.ErrnoException, found, path, start);
  }
  const stores = openFolderStores(memory);
  const options = { name: folder, links, stores, local: await isLocalFileSystem(path) };
  if ((await realpath(path)) === path) return folderSource(path, options);
  return new LinkedRoot(path, folder, (real) => {
    // What is known about the release before says nothing of this one.
    stores.known.clear();
    stores.commonTimes.clear();
    stores.places.clear();
    return folderSource(real, { ...options, link: path });
  });
}

async function isFile(path: string): Promise<boolean> {
  return stat(path).then(
    (stats) => stats.isFile(),
    () => false,
  );
}

/** The folder that a base means: that of a module's URL, or an absolute path; undefined when it is neither. */
export function toFolder(base: string | URL): string | undefined {
  const text = String(base);
  if (!text.startsWith("file:")) return isAbsolute(text) ? text : undefined;
  const path = fileURLToPath(text);
  return text.endsWith("/") ? path : dirname(path);
}

async function explainFailure(
  error: NodeJS.ErrnoException,
  found: string,
  path: string,
  start: string | undefined,
): Promise<string> {
  const shown = start === undefined ? path : relative(start, path) || path;
  if (error.code === "EACCES" || error.code === "EPERM") {
    return `${found}, which this process (${describeProcess()}) may not read; give it read and execute permission on ${shown} and the folders above it.`;
  }
  if (error.code !== "ENOENT" && error.code !== "ENOTDIR") {
    return `${found}, which cannot be opened (${error.code ?? error.message}); check the folder ${shown}.`;
  }
  const near = await findNear(path);
  const hint =
    near === undefined
      ? "create it, build it, or write the folder that holds the files."
      : `did you mean ${JSON.stringify(near)}?`;
  const origin = start === undefined ? "" : `, looked for in ${start}`;
  return `${found}, which does not exist${origin}; ${hint}`;
}

// A folder beside the missing one whose name is close to it.
async function findNear(path: string): Promise<string | undefined> {
  const siblings = await readdir(dirname(path), { withFileTypes: true }).catch(() => []);
  const folders = siblings.filter((entry) => entry.isDirectory() && !entry.name.startsWith("."));
  return suggestName(
    basename(path),
    folders.map(({ name }) => name),
  );
}
