import { resolve } from "node:path";
import { fileURLToPath } from "node:url";
import type { SiteConfig } from "../config/config-types.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { type Mount, selectRules } from "../core/rules/mount.js";
import { compareText } from "../core/text/compare-text.js";
import { joinPath } from "../core/text/path.js";
import { checkAwaited } from "../site/arguments.js";
import { assembleSite, compileSite, isDefinition } from "../site/open.js";
import { checkContent } from "./contents.js";
import { reportSuspicions, type Suspicion, suspect } from "./exposed.js";
import { type Finding, type FindingGroup, SEVERITIES } from "./finding.js";
import { checkFolder } from "./folders.js";
import { checkFreshness, checkMedia, checkServiceWorker, checkTimes } from "./freshness.js";
import { checkLeftovers, findPutAway } from "./leftovers.js";
import { Links } from "./links/links.js";
import { checkPermissions, findUser, type ServingUser } from "./permissions.js";
import { PICTURE_BUDGET, Pictures } from "./pictures.js";
import { checkPolicy } from "./policy.js";
import { checkPortableNames } from "./portable-names.js";
import { checkPrebuilt } from "./prebuilt.js";
import { checkBuild, checkProject } from "./project.js";
import { type ReadFile, readFile, typeByName } from "./read-file.js";
import { checkRepository } from "./repositories.js";
import { checkReused } from "./reused.js";
import { checkInlineMap, checkSourceMap } from "./source-map.js";
import { folderAddressOf, SurveyContext, type SurveyedFolder, titleOf } from "./survey-context.js";
import { walkSurveyed } from "./walk.js";

/** How a survey is made. */
export interface SurveyOptions {
  /** The user that will serve, by name or number: what it may not read is found. This process when not given. */
  readonly asUser?: string;
  /** A picture that a page loads and that is larger is reported, in bytes: 1 MiB when not given. */
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
  const { config } = isDefinition(definition) ? definition : defineSite(definition);
  const { compiled, warnings } = await compileSite(definition, {});
  const context = new SurveyContext(assembleSite(compiled, []), compiled);
  const mounts = compiled.mounts.values();
  for (const { text, key } of warnings.filter(({ isOfFiles }) => !isOfFiles))
    context.report("start-warning", placeOf(mounts, key), text, "Change the rule, or remove it.");
  const folders: SurveyedFolder[] = [];
  for (const [index, mount] of mounts.entries()) {
    const root = findRoot(config, index);
    if (root !== undefined) context.setRoot(mount, root);
    for await (const folder of walkSurveyed(context, mount)) {
      if (checkRepository(context, folder)) continue;
      folders.push(folder);
      await lookOver(context, folder, { root, user });
    }
  }
  const isProject = context.findings.some(({ code }) => code === "project-root");
  if (!isProject) for (const folder of folders) checkFolder(context, folder);
  const files = await readAll(context, folders, { isProject, onProgress, pictureBudget });
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

function findRoot({ base, mounts }: SiteConfig, index: number): string | undefined {
  const { folder } = mounts[index]!;
  if (folder === undefined) return undefined;
  const start =
    base === undefined
      ? ""
      : String(base).startsWith("file:")
        ? fileURLToPath(new URL(".", base))
        : String(base);
  return resolve(start, folder);
}

// What a folder's names alone tell, and what is remembered of them.
async function lookOver(
  context: SurveyContext,
  folder: SurveyedFolder,
  { root, user }: { readonly root: string | undefined; readonly user: ServingUser | undefined },
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
  if (root === undefined) return;
  await checkBuild(context, root, folder);
  if (user !== undefined) await checkPermissions(context, root, folder, user);
}

/** So many files are read between two turns of the event loop. */
const AT_A_TIME = 16;

// Reads each file once; what pages name is followed when all addresses are known.
async function readAll(
  context: SurveyContext,
  folders: readonly SurveyedFolder[],
  {
    isProject,
    onProgress,
    pictureBudget = PICTURE_BUDGET,
  }: Pick<SurveyOptions, "onProgress" | "pictureBudget"> & { readonly isProject: boolean },
): Promise<number> {
  const links = new Links(context);
  const { targets } = links;
  const files = folders.flatMap((folder) => folder.files);
  for (const { mount, path, files: own } of folders) {
    const aside = findPutAway(path);
    for (const file of own) targets.addKnown(file, aside);
    targets.addFolder(folderAddressOf(mount, path));
  }
  const suspicions: Suspicion[] = [];
  const pictures = new Pictures(context, pictureBudget);
  let done = 0;
  for (const file of files) {
    if (++done % AT_A_TIME === 0) {
      onProgress?.(done, files.length);
      await context.pause();
    }
    const read = await readFile(context, file);
    if (read !== undefined) {
      const suspicion = suspect(read);
      if (suspicion !== undefined) suspicions.push(suspicion);
      // Of what should not be there it does not matter how it is made, or what it links to.
      if (isProject || suspicion !== undefined) continue;
      await checkPolicy(context, read);
      if (checkContent(context, read)) pictures.add(read);
      checkServiceWorker(context, read);
      await readText(context, links, read);
    }
    if (isProject) continue;
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

async function readText(context: SurveyContext, links: Links, read: ReadFile): Promise<void> {
  const { file, mediaType, start, text } = read;
  if (mediaType === undefined || start.length === 0) return;
  if (text === undefined) return;
  if (file.path.endsWith(".map")) checkSourceMap(context, file, text);
  if (/(?:javascript|css)$/.test(mediaType)) checkInlineMap(context, file, text);
  await links.read(file, mediaType, text);
}

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

/** So many patterns are in one line. */
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
