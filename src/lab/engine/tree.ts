import { formatPath } from "../../core/request/target.js";
import { type JudgedName, judgeNames, type Verdict } from "../../core/resolve/walk.js";
import { type Mount, selectRules } from "../../core/rules/mount.js";
import { sitePath } from "../../core/text/path.js";
import type { EntryState, TreeEntry, TreeFolder } from "../shapes.js";
import type { Subject } from "./subject.js";

/** More of one folder is not shown: a search finds the rest. */
const ENTRIES_AT_MOST = 1000;

/** A folder of a mount, each name with what visitors get of it. */
export async function viewFolder(
  { compiled: { mounts } }: Subject,
  mountIndex: number,
  path: string,
): Promise<TreeFolder> {
  const mount = mounts.values()[mountIndex];
  const options = { mounts, statsAtMost: ENTRIES_AT_MOST, seesWithheld: true };
  const names = mount && (await judgeNames(mount, path, options));
  if (mount === undefined || names === undefined) return { entries: [], more: 0 };
  const entries = names.slice(0, ENTRIES_AT_MOST).map((one) => viewEntry(mount, one));
  entries.sort((a, b) => Number(b.kind === "directory") - Number(a.kind === "directory"));
  return { entries, more: Math.max(0, names.length - ENTRIES_AT_MOST) };
}

function viewEntry(mount: Mount, judged: JudgedName): TreeEntry {
  const { name, path, kind, metadata } = judged;
  const isFolder = kind === "directory";
  const { area, notListed } = selectRules(mount, path);
  const isServed = judged.verdict === "offered";
  const because = isServed ? notListed.by(path) : (judged.by ?? WORDS[judged.verdict]);
  return {
    name,
    kind: isFolder ? "directory" : "file",
    address: `/${formatPath(sitePath(mount, path))}${isFolder ? "/" : ""}`,
    state: isServed && because !== undefined ? "not listed" : STATES[judged.verdict],
    because: because ?? "",
    isArea: isFolder && path !== "" && area === path,
    sizeBytes: kind === "file" ? (metadata?.sizeBytes ?? 0) : 0,
  };
}

const STATES: Readonly<Record<Verdict, EntryState>> = {
  offered: "served",
  withheld: "withheld",
  "no address": "unreadable",
  elsewhere: "elsewhere",
  "leads nowhere": "link leads nowhere",
  unreadable: "unreadable",
  special: "special",
};

const WORDS: Readonly<Record<Verdict, string>> = {
  offered: "",
  withheld: "",
  "no address": "no address can have this name",
  elsewhere: "another mount answers here",
  "leads nowhere": "a link that leads nowhere, or where it may not",
  unreadable: "this process has no permission to read it",
  special: "neither a file nor a folder",
};
