import { selectRules } from "../core/rules/mount.js";
import { foldName } from "../core/text/fold-name.js";
import { decideKind } from "../reading/contents/kinds.js";
import type { Targets } from "./links/targets.js";
import { typeByName } from "./read-file.js";
import type { SurveyContext, SurveyedFile, SurveyedFolder } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** What people put behind the name of a file before they change it: the file of that name lies beside it. */
const COPY =
  /^(.+?)(?:[-_. ](?:old|bak|backup|bkp|copy|orig|original|prev|previous|kopie|copie|copia|alt|alte?|neu|new|save|tmp|draft)(?:[-_. ]?\d{1,4})?|[-_. ]v\d{1,3}| ?\(\d{1,3}\)|[-_.]\d{4}-\d\d-\d\d|[-_.]20\d{6})(\.[a-z\d]{1,8})$/i;
/** Folders that people put away what is no longer used. */
const PUT_AWAY =
  /^_?(?:old|bak|backups?|archived?|obsolete|deprecated|unused|trash|tmp|temp|copy of .+|(?:old|bak|backup)[-_. ].+|.+[-_. ](?:old|bak|backup|copy|orig))$/i;

/** Files and folders that somebody put aside beside the site, and that no page of it names. */
export function checkLeftovers(
  context: SurveyContext,
  folders: readonly SurveyedFolder[],
  targets: Targets,
): void {
  for (const folder of folders) {
    if (selectRules(folder.mount, folder.path).listing !== undefined) continue;
    const names = new Set(folder.files.map(({ path }) => foldName(nameOf(path))));
    for (const file of folder.files) checkCopy(context, { file, names, targets });
  }
  for (const folder of folders) checkPutAway(context, { folder, folders, targets });
}

function checkCopy(
  context: SurveyContext,
  {
    file,
    names,
    targets,
  }: { readonly file: SurveyedFile; readonly names: ReadonlySet<string>; readonly targets: Targets },
): void {
  const [, stem, extension] = COPY.exec(nameOf(file.path)) ?? [];
  if (stem === undefined || !names.has(foldName(stem + extension)) || targets.isLinked(file)) return;
  const kind = decideKind(typeByName(file));
  // Pictures and texts come in versions that are all meant.
  if (!/^(?:document|style|script|data)$/.test(kind)) return;
  context.report(
    "backup-copy",
    file,
    `It seems to be another version of ${stem}${extension}, and no page names it.`,
    withholdLine(file.path),
  );
}

interface PutAway {
  readonly folder: SurveyedFolder;
  readonly folders: readonly SurveyedFolder[];
  readonly targets: Targets;
}

function checkPutAway(context: SurveyContext, { folder, folders, targets }: PutAway): void {
  const { mount, path } = folder;
  if (path === "" || !PUT_AWAY.test(nameOf(path)) || selectRules(mount, path).listing !== undefined) return;
  const inside = folders
    .filter((one) => one.mount === mount && (one.path === path || one.path.startsWith(`${path}/`)))
    .flatMap(({ files }) => files);
  const hasPages = inside.some((file) => decideKind(typeByName(file)) === "document");
  if (!hasPages || inside.some((file) => targets.isNamedFromOutside(file))) return;
  context.report(
    "old-pages",
    { mount, path },
    "It seems to hold old pages: no page outside it names one of them.",
    withholdLine(`${path}/`),
  );
}

/** The folder that a path lies in and that somebody put away, with its slash; undefined for most. */
export function findPutAway(path: string): string | undefined {
  const segments = path.split("/");
  const at = segments.findIndex((one) => PUT_AWAY.test(one));
  return at < 0 ? undefined : `${segments.slice(0, at + 1).join("/")}/`;
}

const nameOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);
