import { EXPOSURES } from "../config/exposures.js";
import type { SurveyContext, SurveyedFolder } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** What lies in the folder of a version control system, whatever the folder is called. */
const LAYOUTS: readonly (readonly string[])[] = [
  ["HEAD", "objects", "refs"],
  ["entries", "pristine"],
  ["wc.db", "pristine"],
  ["entries", "text-base"],
  ["requires", "store"],
  ["branch-format", "repository"],
];

/** Reports a folder that is a repository under another name; true if it is one. */
export function checkRepository(
  context: SurveyContext,
  { mount, path, files, folders }: SurveyedFolder,
): boolean {
  const names = new Set([
    ...files.map((file) => file.path.slice(file.path.lastIndexOf("/") + 1)),
    ...folders,
  ]);
  if (!LAYOUTS.some((layout) => layout.every((name) => names.has(name)))) return false;
  const { code, reason } = EXPOSURES.find((one) => one.code === "version-control")!;
  context.report(
    code,
    { mount, path },
    `Its files are those of a repository: ${reason[0]!.toLowerCase()}${reason.slice(1)}`,
    path === "" ? "Serve another folder." : withholdLine(`${path}/`),
  );
  return true;
}
