import type { FileSource, Found, Look, OpenedDirectory } from "../../core/source.js";
import { formatSize } from "../../core/text/size.js";
import { type NameList, readNameList } from "./lists.js";
import { isDocument } from "./named-after.js";
import { FolderShapes } from "./shapes.js";

/** Where nothing can be looked at without waiting, what is known is found out again after so long, in milliseconds. */
const KNOWN_MS = 1000;
/**
 * What is known is proved again after so long, in milliseconds, however many answers depend on it: a look each turn made every answer under
 * such a rule a tenth slower. The name of a file that did not change is known that much later.
 */
const PROVED_MS = 100;
/** How many names of a folder are looked at. */
const NAMES_AT_MOST = 2000;
/** A longer list is not read, in bytes. */
const LIST_AT_MOST = 8 * 1024 * 1024;

/** What was found where a list may be, and a look that tells whether it is still so. */
export interface KnownList {
  /** Undefined if there is no list that can be used. */
  readonly list: NameList | undefined;
  /** Why it cannot be used, as part of a sentence. */
  readonly problem?: string;
  readonly look: Look | undefined;
}

/** That a folder has the names that it had, and the build's lists are what they were. */
export class Proof implements Look {
  readonly changedMs: number;
  readonly version: string | undefined;
  readonly #looks: readonly Look[] | undefined;
  #provedMs: number;

  /** If something cannot be looked at again, it stands for a while. */
  constructor(nowMs: number, looks: readonly (Look | undefined)[], version: string | undefined) {
    const complete = looks.filter((look) => look !== undefined);
    const isComplete = complete.length === looks.length;
    this.#provedMs = nowMs;
    this.#looks = isComplete ? complete : undefined;
    this.version = version;
    this.changedMs = isComplete ? Math.max(...complete.map(({ changedMs }) => changedMs)) : nowMs;
  }

  holds(): boolean {
    const nowMs = Date.now();
    // A clock that was put back proves nothing.
    const ageMs = Math.abs(nowMs - this.#provedMs);
    if (this.#looks === undefined) return ageMs < KNOWN_MS;
    if (ageMs < PROVED_MS) return true;
    if (!this.#looks.every((one) => one.holds())) return false;
    this.#provedMs = nowMs;
    return true;
  }
}

/** Looks for a list in a source, and reads it. */
export async function readOwnList(source: FileSource, path: string): Promise<KnownList> {
  const found = await openQuietly(source, path);
  const look = source.look?.(path, found);
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "file") return { list: undefined, look };
  try {
    const { sizeBytes } = found.file.metadata;
    if (sizeBytes > LIST_AT_MOST)
      return { list: undefined, look, problem: `it is longer than ${formatSize(LIST_AT_MOST)}` };
    const text = new TextDecoder().decode(await found.file.read(0, sizeBytes));
    const list = readNameList(path, text);
    return "problem" in list ? { list: undefined, look, problem: list.problem } : { list, look };
  } catch {
    return { list: undefined, look };
  } finally {
    found.file.close();
  }
}

interface ReadFolder {
  readonly shapes: FolderShapes | undefined;
  readonly version: string | undefined;
  readonly look: Look | undefined;
}

/** What the names of a folder have in common: from memory while it has the version that it had. */
export async function readFolder(
  source: FileSource,
  folder: string,
  before: { readonly shapes: FolderShapes | undefined; readonly proof: Proof } | undefined,
): Promise<ReadFolder> {
  const found = await openQuietly(source, folder);
  if (found.kind === "file") found.file.close();
  if (found.kind !== "directory") return { shapes: undefined, version: undefined, look: undefined };
  const { directory } = found;
  try {
    const { version } = directory;
    const look = version === undefined ? undefined : source.lookInside?.(folder, version);
    if (before !== undefined && version !== undefined && before.proof.version === version)
      return { shapes: before.shapes, version, look };
    return { shapes: await readShapes(directory), version, look };
  } finally {
    directory.close();
  }
}

/** Opens a name. A source of the developer's own that rejects has nothing there. */
export async function openQuietly(source: FileSource, path: string): Promise<Found> {
  try {
    return await source.open(path);
  } catch (error) {
    return { kind: "failed", cause: String(error), busy: false };
  }
}

async function readShapes(directory: OpenedDirectory): Promise<FolderShapes | undefined> {
  const entries = await directory.list(NAMES_AT_MOST).catch(() => undefined);
  if (entries === undefined || "kind" in entries) return undefined;
  const names = entries.filter(({ kind }) => kind !== "directory").map(({ name }) => name);
  return new FolderShapes(names.filter((name) => !isDocument(name)));
}
