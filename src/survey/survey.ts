import { resolve } from "node:path";
import { fileURLToPath } from "node:url";
import type { SiteConfig } from "../config/config-types.js";
import { defineSite, type SiteDefinition } from "../config/define.js";
import { CODING_ENDINGS } from "../core/rules/codings.js";
import { selectRules } from "../core/rules/mount.js";
import { writeCommand } from "../core/text/command.js";
import { compareText } from "../core/text/compare-text.js";
import { joinPath } from "../core/text/path.js";
import { wantedTail } from "../reading/contents/formats.js";
import type { Picture } from "../reading/contents/picture.js";
import type { Reference } from "../reading/pages/references.js";
import { checkAwaited } from "../site/arguments.js";
import { assembleSite, compileSite, isDefinition } from "../site/open.js";
import { FolderFile } from "../sources/folder-file.js";
import { checkContent, type ReadFile, typeByName, wantedStart } from "./contents.js";
import { reportSuspicions, type Suspicion, suspect } from "./exposed.js";
import { type Finding, type FindingGroup, SEVERITIES } from "./finding.js";
import { checkFolder } from "./folders.js";
import { checkFreshness, checkTimes } from "./freshness.js";
import { checkPermissions, findUser, type ServingUser } from "./permissions.js";
import { checkPolicy } from "./policy.js";
import { checkBuild, checkProject, findUnbuilt, reportUnbuilt } from "./project.js";
import { References } from "./references.js";
import { checkReused } from "./reused.js";
import { checkSourceMap } from "./source-map.js";
import {
  addressOf,
  folderAddressOf,
  SurveyContext,
  type SurveyedFile,
  type SurveyedFolder,
  titleOf,
} from "./survey-context.js";
import { walkSurveyed } from "./walk.js";

/** How a survey is made. */
export interface SurveyOptions {
  /** The user that will serve, by name or number: what it may not read is found. This process when not given. */
  readonly asUser?: string;
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
  { asUser, onProgress }: SurveyOptions = {},
): Promise<Survey> {
  checkAwaited("surveySite", definition);
  const started = performance.now();
  const user = asUser === undefined ? undefined : await findUser(asUser);
  const { config } = isDefinition(definition) ? definition : defineSite(definition);
  const { compiled, warnings } = await compileSite(definition, {});
  const context = new SurveyContext(assembleSite(compiled, []), compiled);
  const mounts = compiled.mounts.values();
  for (const { text } of warnings.filter(({ isOfFiles }) => !isOfFiles))
    context.report("start-warning", { mount: mounts[0]!, path: "" }, text, "Change the rule, or remove it.");
  const folders: SurveyedFolder[] = [];
  for (const [index, mount] of mounts.entries()) {
    const root = findRoot(config, index);
    for await (const folder of walkSurveyed(context, mount)) {
      folders.push(folder);
      await lookOver(context, folder, { root, user });
    }
  }
  const isProject = context.findings.some(({ code }) => code === "project-root");
  if (!isProject) for (const folder of folders) checkFolder(context, folder);
  const files = await readAll(context, folders, { isProject, onProgress });
  return {
    findings: sortFindings(context.findings),
    files,
    folders: folders.length,
    milliseconds: performance.now() - started,
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
  await checkReused(context, files);
  if (path === "") {
    const hasDependencies = context.findings.some(
      ({ code, file }) => code === "dependencies" && !file.includes("/"),
    );
    checkProject(context, folder, hasDependencies);
  }
  if (root === undefined) return;
  await checkBuild(context, root, folder);
  if (user !== undefined) await checkPermissions(context, root, folder, user);
}

/** So many files are read between two turns of the event loop. */
const AT_A_TIME = 64;

// Reads each file once; what pages name is followed when all addresses are known.
async function readAll(
  context: SurveyContext,
  folders: readonly SurveyedFolder[],
  { isProject, onProgress }: Pick<SurveyOptions, "onProgress"> & { readonly isProject: boolean },
): Promise<number> {
  const references = new References(context);
  const files = folders.flatMap((folder) => folder.files);
  for (const { mount, path } of files) references.addKnown(addressOf(mount, path));
  for (const { mount, path } of folders) references.addFolder(folderAddressOf(mount, path));
  const suspicions: Suspicion[] = [];
  const pictures = new Map<string, { file: SurveyedFile; picture: Picture }>();
  let done = 0;
  for (const file of files) {
    if (++done % AT_A_TIME === 0) {
      onProgress?.(done, files.length);
      await context.pause();
    }
    const read = await readFile(context, file);
    if (read !== undefined) {
      const suspicion = suspect(file, { start: read.start, mediaType: read.mediaType ?? "" });
      if (suspicion !== undefined) suspicions.push(suspicion);
      // Of what should not be there it does not matter how it is made, or what it links to.
      if (isProject || suspicion !== undefined) continue;
      await checkPolicy(context, read);
      const picture = checkContent(context, read);
      if (picture !== undefined) pictures.set(addressOf(file.mount, file.path), { file, picture });
      for (const reference of await readReferences(context, references, read))
        await references.follow(file, reference);
    }
    if (!isProject) checkFreshness(context, file, typeByName(file));
  }
  onProgress?.(files.length, files.length);
  reportSuspicions(context, suspicions);
  checkShown(context, references, pictures);
  return files.length;
}

async function readFile(context: SurveyContext, file: SurveyedFile): Promise<ReadFile | undefined> {
  const mediaType = typeByName(file);
  const { source } = file.mount;
  const found = source.openNow?.(file.path) ?? (await source.open(file.path));
  if (found.kind === "directory") found.directory.close();
  if (found.kind !== "file") {
    if (found.kind === "forbidden") await reportForbidden(context, file);
    return undefined;
  }
  const opened = found.file;
  try {
    const { sizeBytes } = opened.metadata;
    const head = Buffer.allocUnsafe(Math.min(sizeBytes, wantedStart(file, mediaType)));
    // Nobody waits for an answer: reading in place takes a tenth of the time.
    const start =
      opened instanceof FolderFile ? opened.readNow(head) : await opened.read(0, head.length, head);
    const tailBytes = Math.min(sizeBytes, wantedTail(mediaType ?? ""));
    const tail = tailBytes === 0 ? start.subarray(0, 0) : await opened.read(sizeBytes - tailBytes, tailBytes);
    return { file, mediaType, start, tail };
  } catch {
    return undefined;
  } finally {
    opened.close();
  }
}

async function reportForbidden(context: SurveyContext, file: SurveyedFile): Promise<void> {
  const told = await file.mount.source.diagnose(file.path);
  context.report(
    "not-readable",
    file,
    `${told?.text ?? "This process may not read it"}: visitors get 403.`,
    writeCommand(file.path, (path) => `chmod a+r ${path}`, "Give everybody the right to read it."),
  );
}

async function readReferences(
  context: SurveyContext,
  references: References,
  read: ReadFile,
): Promise<readonly Reference[]> {
  const { file, mediaType, start } = read;
  if (mediaType === undefined || start.length === 0 || start.length < file.sizeBytes) return [];
  if (/\/json$/.test(mediaType) && file.path.endsWith(".map")) checkSourceMap(context, file, start);
  if (!/^text\/(?:html|css)$|xhtml|javascript$|manifest\+json$/.test(mediaType)) return [];
  const text = new TextDecoder().decode(start);
  if (/html/.test(mediaType)) {
    const unbuilt = findUnbuilt(text);
    if (unbuilt !== undefined) reportUnbuilt(context, file, unbuilt);
  }
  return references.read(read, text);
}

/** A picture with so many times the pixels that are shown is larger than any screen needs. */
const TOO_MANY_PIXELS = 4;
const LARGE_PICTURE = 100 * 1024;

function checkShown(
  context: SurveyContext,
  { shown }: References,
  pictures: ReadonlyMap<string, { readonly file: SurveyedFile; readonly picture: Picture }>,
): void {
  const widest = new Map<string, number>();
  for (const { address, width } of shown) widest.set(address, Math.max(width, widest.get(address) ?? 0));
  for (const [address, width] of widest) {
    const found = pictures.get(address);
    if (
      found === undefined ||
      found.file.sizeBytes < LARGE_PICTURE ||
      found.picture.width < width * TOO_MANY_PIXELS
    )
      continue;
    context.report(
      "picture-larger-than-shown",
      found.file,
      `It is ${found.picture.width} pixels wide, and no page shows it wider than ${width}.`,
      `Save it ${width * 2} pixels wide: enough for screens of double density.`,
    );
  }
}

function sortFindings(findings: readonly Finding[]): Finding[] {
  const rank = new Map(SEVERITIES.map((severity, index) => [severity, index]));
  return [...findings].sort(
    (a, b) =>
      rank.get(a.severity)! - rank.get(b.severity)! ||
      compareText(a.code, b.code) ||
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
    fix: commonFix(all),
  }));
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
