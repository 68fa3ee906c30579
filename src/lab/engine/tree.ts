import { formatPath, isAddressable } from "../../core/request/target.js";
import { below } from "../../core/resolve/read-directory.js";
import { type Mount, selectRules, withheldIn } from "../../core/rules/mount.js";
import type { EntryMetadata } from "../../core/source.js";
import type { EntryState, TreeEntry, TreeFolder } from "../shapes.js";
import type { Subject } from "./subject.js";

/** More of one folder is not shown: a search finds the rest. */
const ENTRIES_AT_MOST = 1000;
const EMPTY: TreeFolder = { entries: [], more: 0 };

/** A folder of a mount as it lies on disk, each name with what visitors get of it. */
export async function viewFolder(subject: Subject, mountIndex: number, path: string): Promise<TreeFolder> {
  const mount = subject.compiled.mounts.values()[mountIndex];
  const found = await mount?.source.open(path);
  if (found?.kind === "file") found.file.close();
  if (mount === undefined || found?.kind !== "directory") return EMPTY;
  const { directory } = found;
  try {
    const listed = await directory.list();
    if ("kind" in listed) return EMPTY;
    const names = listed.map(({ name }) => name).sort((a, b) => (a < b ? -1 : 1));
    const entries: TreeEntry[] = [];
    for (const name of names.slice(0, ENTRIES_AT_MOST))
      entries.push(viewEntry(subject, mount, below(path, name), await directory.stat(name)));
    entries.sort((a, b) => Number(b.kind === "directory") - Number(a.kind === "directory"));
    return { entries, more: Math.max(0, names.length - ENTRIES_AT_MOST) };
  } finally {
    directory.close();
  }
}

function viewEntry(
  subject: Subject,
  mount: Mount,
  path: string,
  metadata: EntryMetadata | undefined,
): TreeEntry {
  const name = path.slice(path.lastIndexOf("/") + 1);
  const isFolder = metadata?.kind === "directory";
  const address = `/${formatPath([mount.at, path].filter(Boolean).join("/"))}${isFolder ? "/" : ""}`;
  const { state, because } = judge(subject, mount, path, metadata);
  return {
    name,
    kind: isFolder ? "directory" : "file",
    address,
    state,
    because,
    isArea: isFolder && path !== "" && selectRules(mount, path).area === path,
    sizeBytes: metadata?.kind === "file" ? metadata.sizeBytes : 0,
  };
}

function judge(
  { compiled }: Subject,
  mount: Mount,
  path: string,
  metadata: EntryMetadata | undefined,
): { readonly state: EntryState; readonly because: string } {
  const name = path.slice(path.lastIndexOf("/") + 1);
  const withheldBy = withheldIn(mount, path);
  if (withheldBy !== undefined) return { state: "withheld", because: withheldBy };
  if (!isAddressable(name)) return { state: "unreadable", because: "no address can have this name" };
  const full = [mount.at, path].filter(Boolean).join("/");
  const answering = compiled.mounts.find(full)?.value;
  if (answering !== undefined && answering !== mount)
    return { state: "elsewhere", because: `the mount at /${answering.at} answers here` };
  if (metadata === undefined || metadata.kind === "broken")
    return { state: "led away", because: "a link that leads nowhere, or where it may not" };
  if (metadata.kind === "unreadable")
    return { state: "unreadable", because: "this process has no permission to read it" };
  if (metadata.kind === "special") return { state: "special", because: "neither a file nor a folder" };
  const { realPath } = metadata;
  const hidden = realPath === undefined ? undefined : withheldIn(mount, realPath);
  if (hidden !== undefined) return { state: "withheld", because: `it leads to what is withheld: ${hidden}` };
  const notListed = selectRules(mount, path).notListed.by(path);
  return notListed === undefined
    ? { state: "served", because: "" }
    : { state: "not listed", because: notListed };
}
