import type { EarlierConfig, MountConfig, SiteConfig } from "../config/config-types.js";
import { parseDuration } from "../config/durations.js";
import { compilePattern } from "../config/patterns.js";
import type { Memory } from "../core/memory/memory.js";
import { walkMount } from "../core/resolve/walk.js";
import type { EarlierReleases } from "../core/rules/earlier.js";
import type { Mount } from "../core/rules/mount.js";
import { isFingerprinted } from "../core/rules/names.js";
import type { FileSource } from "../core/source.js";
import { foldName } from "../core/text/fold-name.js";
import { hasOther } from "../reading/builds/other-bytes.js";

/** The earlier releases of a mount, and a sentence for each thing to fix or to know. */
interface OpenedEarlier {
  readonly earlier?: EarlierReleases;
  readonly problems: readonly string[];
  readonly warnings: readonly string[];
}

/** Opens what a mount says of its earlier releases. */
export async function openEarlier(
  mount: MountConfig,
  where: string,
  base: SiteConfig["base"],
  memory: Memory,
): Promise<OpenedEarlier> {
  const written = mount.earlierReleases;
  if (written === undefined) return { problems: [], warnings: [] };
  const surroundings = { mount, where: `${where}.earlierReleases`, base, memory };
  if (Array.isArray(written)) return openList(written, surroundings);
  const pattern = written as Pattern;
  const { folders } = pattern;
  if (folders === undefined)
    return {
      problems: [],
      warnings: [
        `${surroundings.where}: found no folders, so no earlier release answers; write folders: ../builds/*, or serve the site from a release store, which has its own.`,
      ],
    };
  const opened = await openPattern({ ...pattern, folders }, mount, surroundings.where, base);
  if (pattern.files === undefined || opened.earlier === undefined) return opened;
  const tests = [pattern.files].flat().map((one) => compilePattern(one).matches);
  const answers = (path: string): boolean => tests.some((matches) => matches(foldName(path)));
  return { ...opened, earlier: withAnswers(opened.earlier, answers) };
}

function withAnswers(earlier: EarlierReleases, answers: (path: string) => boolean): EarlierReleases {
  return { list: () => earlier.list(), listNow: () => earlier.listNow!(), answers };
}

interface Surroundings {
  readonly mount: MountConfig;
  readonly where: string;
  readonly base: SiteConfig["base"];
  readonly memory: Memory;
}

// A release that is not there, or not there any more, is no reason not to start.
async function openList(
  list: readonly (string | FileSource)[],
  { mount: { links }, where, base, memory }: Surroundings,
): Promise<OpenedEarlier> {
  const sources: FileSource[] = [];
  const warnings: string[] = [];
  const { openFolder } = await import("../sources/open-folder.js");
  for (const [index, one] of list.entries()) {
    const opened =
      typeof one === "string"
        ? await openFolder(one, { where: `${where}[${index}]`, base, links: links ?? "inside", memory })
        : one;
    if (typeof opened === "string") warnings.push(opened);
    else sources.push(opened);
  }
  return { earlier: { list: () => sources }, problems: [], warnings };
}

/** Earlier releases by a pattern of folders. */
type Pattern = Exclude<EarlierConfig, readonly unknown[]>;

async function openPattern(
  { folders, keep, within }: Pattern & { readonly folders: string },
  { links = "inside" }: MountConfig,
  where: string,
  base: SiteConfig["base"],
): Promise<OpenedEarlier> {
  const { EarlierFolders, RELEASES_AT_MOST, resolveFolder, splitPattern } = await import(
    "../sources/earlier-folders.js"
  );
  const { parent: shownParent, name } = splitPattern(folders);
  const parent = resolveFolder(shownParent, base);
  if (parent === undefined)
    return {
      problems: [
        `${where}.folders: found ${JSON.stringify(folders)}, but it is unknown what it is relative to; write base: import.meta.url (in CommonJS, base: __dirname) beside mounts.`,
      ],
      warnings: [],
    };
  const { matches } = compilePattern(name);
  const earlier = new EarlierFolders({
    parent,
    shownParent: shownParent === "." ? "" : `${shownParent}/`,
    matches: (one) => !one.startsWith(".") && matches(foldName(one)),
    keep: keep ?? RELEASES_AT_MOST,
    withinMs: within === undefined ? Number.POSITIVE_INFINITY : parseDuration(within)! * 1000,
    links,
  });
  return { earlier, problems: [], warnings: [] };
}

/** How many files are compared at start, and none that is longer, in bytes. */
const COMPARED_AT_MOST = 500;
const COMPARED_BYTES = 1024 * 1024;

/** Names with a fingerprint that stand for other bytes in an earlier release: a sentence for each release. */
export async function findOtherBytes(mount: Mount): Promise<string[]> {
  if (mount.earlier === undefined) return [];
  const source = (await mount.source.snapshot?.()) ?? mount.source;
  const others = new Map<FileSource, string[]>();
  let compared = 0;
  for await (const { path, kind, sizeBytes } of walkMount({ ...mount, source })) {
    if (kind !== "file" || sizeBytes > COMPARED_BYTES) continue;
    if (!(await isFingerprinted(mount.names, source, path))) continue;
    if (++compared > COMPARED_AT_MOST) break;
    for (const earlier of await mount.earlier.list()) {
      if (!(await differs(source, earlier, path))) continue;
      others.set(earlier, [...(others.get(earlier) ?? []), path]);
      mount.names?.noteChanged(path, `in the earlier release ${earlier.name}`);
    }
  }
  return [...others].map(([{ name }, [first, ...more]]) => {
    const rest = more.length === 0 ? "" : ` and ${more.length} more`;
    return `The mount at /${mount.at}: ${first}${rest} has other bytes in the earlier release ${name}, although its name has a fingerprint, so that it is revalidated; let the build make the name from the content, or remove the old file.`;
  });
}

async function differs(here: FileSource, there: FileSource, path: string): Promise<boolean> {
  const own = await here.open(path);
  if (own.kind === "directory") own.directory.close();
  if (own.kind !== "file") return false;
  try {
    return await hasOther(there, path, own.file);
  } finally {
    own.file.close();
  }
}
