import type { SiteConfig } from "../config/config-types.js";
import type { SiteDefinition } from "../config/define.js";
import { parseSize } from "../config/sizes.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { type Mount, selectRules } from "../core/rules/mount.js";
import { compareText } from "../core/text/compare-text.js";
import { joinPath } from "../core/text/path.js";
import { checkAwaited } from "../site/arguments.js";
import { typeByName } from "./examine/read-file.js";
import type { Suspicion } from "./examine/suspect.js";
import { examineAll } from "./examine/team.js";
import { reportSuspicions } from "./exposed.js";
import { type Finding, type FindingGroup, SEVERITIES } from "./finding.js";
import { checkFolder } from "./folders.js";
import { checkFreshness, checkMedia, checkTimes } from "./freshness.js";
import { checkLeftovers, findPutAway } from "./leftovers.js";
import { Links } from "./links/links.js";
import { openContext } from "./open-context.js";
import { checkPermissions, findUser, type ServingUser } from "./permissions.js";
import { PICTURE_BUDGET, Pictures, pictureFrom } from "./pictures.js";
import { checkPortableNames } from "./portable-names.js";
import { checkPrebuilt } from "./prebuilt.js";
import { checkBuild, checkProject } from "./project.js";
import { checkRepository } from "./repositories.js";
import { checkReused } from "./reused.js";
import {
  folderAddressOf,
  type SurveyContext,
  type SurveyedFile,
  type SurveyedFolder,
  titleOf,
} from "./survey-context.js";
import { walkSurveyed } from "./walk.js";

/** How a survey is made. */
export interface SurveyOptions {
  /** The user that will serve, by name or number: what it may not read is found. This process when not given. */
  readonly asUser?: string;
  /** A picture that a page loads and that is larger is reported, in bytes: what the configuration says under `budget`, or 1 MB. */
  readonly pictureBudget?: number | undefined;
  /** Called now and then with how many files were read, of how many; 0 while they are still being found. */
  readonly onProgress?: (read: number, total: number) => void;
}

/** What a survey found. */
export interface Survey {
  /** The worst first, and those of a kind together. */
  readonly findings: readonly Finding[];
  /** How many files visitors can reach. */
  readonly files: number;
  readonly folders: number;
  readonly milliseconds: number;
}

/**
 * Looks over a site before you publish it: everything that visitors can reach, by the site's own rules.
 * Found is what should not be reachable, what will not work, what will be slow or stale, and what is of the wrong kind. Rejects
 * with a SiteError for a configuration that cannot be used, or a user that does not exist.
 */
export async function surveySite(
  definition: SiteDefinition | SiteConfig,
  { asUser, onProgress, pictureBudget }: SurveyOptions = {},
): Promise<Survey> {
  checkAwaited("surveySite", definition);
  const started = performance.now();
  const user = asUser === undefined ? undefined : await findUser(asUser);
  const { context, config, warnings } = await openContext(definition);
  const mounts = context.compiled.mounts.values();
  for (const { text, key } of warnings.filter(({ isOfFiles }) => !isOfFiles))
    context.report("start-warning", placeOf(mounts, key), text, "Change the rule, or remove it.");
  const folders: SurveyedFolder[] = [];
  for (const mount of mounts) {
    for await (const folder of walkSurveyed(context, mount)) {
      if (checkRepository(context, folder)) continue;
      folders.push(folder);
      await lookOver(context, folder, user);
    }
  }
  const isProject = context.findings.some(({ code }) => code === "project-root");
  if (!isProject) for (const folder of folders) checkFolder(context, folder);
  const files = await readAll(context, folders, { isProject, onProgress, pictureBudget, config });
  return {
    findings: sortFindings(context.findings),
    files,
    folders: folders.length,
    milliseconds: performance.now() - started,
  };
}

/** The place that a key of the configuration is about. */
function placeOf(mounts: readonly Mount[], key = ""): { mount: Mount; path: string } {
  const [, index = "0", area = ""] = /^mounts\[(\d+)\](?:\.areas\["([^"]*)"\])?/.exec(key) ?? [];
  const mount = mounts[Number(index)] ?? mounts[0]!;
  // Areas are written from the site's root.
  const path = area.replace(/^\//, "").replace(/\/$/, "");
  return {
    mount,
    path: mount.at !== "" && path.startsWith(mount.at) ? path.slice(mount.at.length + 1) : path,
  };
}

// What a folder's names alone tell, and what is remembered of them.
async function lookOver(
  context: SurveyContext,
  folder: SurveyedFolder,
  user: ServingUser | undefined,
): Promise<void> {
  const { mount, path, files } = folder;
  const { codings, defaultDocuments } = selectRules(mount, path);
  for (const file of files)
    if (codings.prebuilt.some((coding) => file.path.endsWith(CODING_ENDINGS[coding])))
      context.prebuilt.add(`${mount.at}\0${file.path}`);
  if (files.some((file) => defaultDocuments.some((name) => file.path === joinPath(path, name))))
    context.documentsIn.add(`${mount.at}\0${path}`);
  checkTimes(context, folder);
  checkPortableNames(context, folder);
  await checkPrebuilt(context, folder);
  await checkReused(context, files);
  if (path === "") {
    const hasDependencies = context.findings.some(
      ({ code, file }) => code === "dependencies" && !file.includes("/"),
    );
    await checkProject(context, folder, hasDependencies);
  }
  const root = context.rootOf(mount);
  if (root === undefined) return;
  await checkBuild(context, root, folder);
  if (user !== undefined) await checkPermissions(context, root, folder, user);
}

// Reads each file once; what pages name is followed when all addresses are known.
async function readAll(
  context: SurveyContext,
  folders: readonly SurveyedFolder[],
  { isProject, onProgress, pictureBudget, config }: Reading,
): Promise<number> {
  const links = new Links(context);
  const { targets } = links;
  const files = folders.flatMap((folder) => folder.files);
  for (const { mount, path, files: own } of folders) {
    const aside = findPutAway(path);
    for (const file of own) targets.addKnown(file, aside);
    targets.addFolder(folderAddressOf(mount, path));
  }
  const suspicions = new Map<SurveyedFile, Suspicion>();
  const budget = pictureBudget ?? parseSize(config.budget?.picture ?? PICTURE_BUDGET)!;
  const pictures = new Pictures(context, budget);
  const wanted = { isProject, pictureFrom: pictureFrom(budget) };
  let done = 0;
  for await (const [file, notes] of examineAll(context, files, { wanted, config })) {
    if (++done % TOLD_EVERY === 0) onProgress?.(done, files.length);
    if (notes?.suspicion !== undefined) suspicions.set(file, notes.suspicion);
    if (isProject || notes?.suspicion !== undefined) continue;
    if (notes?.picture !== undefined) pictures.add(file, notes.picture);
    if (notes?.names !== undefined) await links.follow(file, notes.names);
    const mediaType = typeByName(file);
    checkFreshness(context, file, mediaType);
    checkMedia(context, file, mediaType);
  }
  if (!isProject) {
    await links.finish();
    checkLeftovers(context, folders, targets);
  }
  onProgress?.(files.length, files.length);
  reportSuspicions(context, suspicions, targets);
  pictures.report(targets);
  return files.length;
}

/** How files are read. */
interface Reading extends Pick<SurveyOptions, "onProgress" | "pictureBudget"> {
  readonly isProject: boolean;
  readonly config: SiteConfig;
}

/** Files between two reports of progress. */
const TOLD_EVERY = 16;

function sortFindings(findings: readonly Finding[]): Finding[] {
  const rank = new Map(SEVERITIES.map((severity, index) => [severity, index]));
  return [...findings].sort(
    (a, b) =>
      rank.get(a.severity)! - rank.get(b.severity)! ||
      compareText(a.code, b.code) ||
      (b.places?.length ?? 0) - (a.places?.length ?? 0) ||
      compareText(a.address, b.address),
  );
}

/** Findings of one kind together, with what they are in a few words; in the order of the findings. */
export function groupFindings(findings: readonly Finding[]): FindingGroup[] {
  const groups = new Map<string, Finding[]>();
  for (const finding of findings) {
    const group = groups.get(finding.code);
    if (group === undefined) groups.set(finding.code, [finding]);
    else group.push(finding);
  }
  return [...groups].map(([code, all]) => ({
    code,
    severity: all[0]!.severity,
    title: titleOf(code),
    findings: all,
    places: countPlaces(all),
    fix: commonFix(all),
  }));
}

// One place that is the finding's own address is told by that.
function countPlaces(findings: readonly Finding[]): number | undefined {
  const counts = findings.map(({ places }) => places?.length);
  const sum = counts.reduce<number>((all, one) => all + (one ?? 1), 0);
  return sum > findings.length ? sum : undefined;
}

/** How many patterns are in one line. */
const PATTERNS_AT_MOST = 8;

// One fix for all of a kind: the same, or the patterns of all in one line.
function commonFix(findings: readonly Finding[]): string | undefined {
  const fixes = [...new Set(findings.map(({ fix }) => fix))];
  if (fixes.length === 1) return fixes[0];
  const patterns = fixes.map((fix) => /^withheld: \[(.*)\]$/.exec(fix)?.[1]);
  if (patterns.includes(undefined)) return undefined;
  const more = patterns.length > PATTERNS_AT_MOST ? ", …" : "";
  return `withheld: [${patterns.slice(0, PATTERNS_AT_MOST).join(", ")}${more}]`;
}

export type { Finding, FindingGroup, Severity } from "./finding.js";
