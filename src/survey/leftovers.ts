import { selectRules } from "../core/rules/mount.js";
import { foldName } from "../core/text/fold-name.js";
import { decideKind } from "../reading/contents/kinds.js";
import { typeByName } from "./examine/read-file.js";
import type { Targets } from "./links/targets.js";
import type { SurveyContext, SurveyedFile, SurveyedFolder } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** What people put behind the name of a file before they change it: the file of that name lies beside it. */
const COPY =
  /^(.+?)(?:[-_. ](?:old|bak|backup|bkp|copy|orig|original|prev|previous|kopie|copie|copia|alte?|neu|new|save|tmp|draft)(?:[-_. ]?\d{1,4})?| ?\(\d{1,3}\))(\.[a-z\d]{1,8})$/i;
/** The same of a page. Scripts and data have versions and dates that are all meant. */
const EDITION = /^(.+?)(?:[-_. ]v\d{1,3}|[-_.]\d{4}-\d\d-\d\d|[-_.]20\d{6})(\.[a-z\d]{1,8})$/i;
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
  for (const [place, isOld] of judgePutAway(folders, targets))
    if (isOld)
      context.report(
        "old-pages",
        place,
        "It seems to hold old pages: no page outside it names one of them.",
        withholdLine(`${place.path}/`),
      );
}

function checkCopy(
  context: SurveyContext,
  {
    file,
    names,
    targets,
  }: { readonly file: SurveyedFile; readonly names: ReadonlySet<string>; readonly targets: Targets },
): void {
  const kind = decideKind(typeByName(file));
  // Pictures and texts come in versions that are all meant.
  if (!/^(?:document|style|script|data)$/.test(kind)) return;
  const name = nameOf(file.path);
  const [, stem, extension] = COPY.exec(name) ?? (kind === "document" ? EDITION.exec(name) : null) ?? [];
  if (stem === undefined || !names.has(foldName(stem + extension)) || targets.isLinked(file)) return;
  context.report(
    "backup-copy",
    file,
    `It seems to be another version of ${stem}${extension}, and no page names it.`,
    withholdLine(file.path),
  );
}

type Place = Pick<SurveyedFolder, "mount" | "path">;

/** Each folder that somebody put away, and whether it holds pages, and nothing that is named from outside. */
function judgePutAway(folders: readonly SurveyedFolder[], targets: Targets): Map<Place, boolean> {
  const places = new Map<string, { readonly place: Place; hasPages: boolean; isUsed: boolean }>();
  for (const { mount, path, files } of folders) {
    const aside = findPutAway(path);
    if (aside === undefined) continue;
    const place = { mount, path: aside.slice(0, -1) };
    const key = `${mount.at}\0${aside}`;
    const known = places.get(key) ?? { place, hasPages: false, isUsed: false };
    known.hasPages ||= files.some((file) => decideKind(typeByName(file)) === "document");
    known.isUsed ||=
      selectRules(mount, path).listing !== undefined ||
      files.some((file) => targets.isNamedFromOutside(file));
    places.set(key, known);
  }
  return new Map([...places.values()].map(({ place, hasPages, isUsed }) => [place, hasPages && !isUsed]));
}

/** The folder that a path lies in and that somebody put away, with its slash; undefined for most. */
export function findPutAway(path: string): string | undefined {
  const segments = path.split("/");
  const at = segments.findIndex((one) => PUT_AWAY.test(one));
  return at < 0 ? undefined : `${segments.slice(0, at + 1).join("/")}/`;
}

const nameOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);
