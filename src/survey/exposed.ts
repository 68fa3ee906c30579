import { EXPOSURES } from "../config/exposures.js";
import { findRule } from "../core/rules/file-rules.js";
import { selectRules } from "../core/rules/mount.js";
import type { Suspicion } from "./examine/suspect.js";
import type { Targets } from "./links/targets.js";
import type { SurveyContext, SurveyedFile } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** Reports what was suspected, but for what is offered on purpose. */
export function reportSuspicions(
  context: SurveyContext,
  suspicions: ReadonlyMap<SurveyedFile, Suspicion>,
  targets: Targets,
): void {
  for (const [file, exposure] of suspicions) {
    if (exposure.unless === "offered" && isOfferedOnPurpose(file, targets)) continue;
    context.report(exposure.code, file, exposure.reason, withholdLine(patternFor(file.path, exposure)));
  }
}

/** True for what is a download, is listed, or has a page that links to it. */
function isOfferedOnPurpose(file: SurveyedFile, targets: Targets): boolean {
  const { mount, path, fingerprinted } = file;
  const rules = selectRules(mount, path);
  if (findRule(rules.downloads, path, fingerprinted) !== undefined) return true;
  if (rules.listing !== undefined && rules.notListed.by(path) === undefined) return true;
  return targets.isLinked(file);
}

// The narrowest pattern that is sure to mean such files alone: an ending, a name, or the very path.
function patternFor(path: string, { code }: Suspicion): string {
  const name = path.slice(path.lastIndexOf("/") + 1);
  const names = EXPOSURES.filter((one) => one.code === code).find((one) =>
    one.names?.test(name.toLowerCase()),
  )?.names;
  if (names === undefined) return path;
  const ending = /\.[a-z0-9]+$/i.exec(name)?.[0];
  if (ending !== undefined && names.test(`x${ending.toLowerCase()}`)) return `*${ending}`;
  return /[*?[\]{}\\]/.test(name) ? path : name;
}
