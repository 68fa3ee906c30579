import { isPortableName } from "../sources/portable-name.js";
import type { SurveyContext, SurveyedFolder } from "./survey-context.js";

/** Reports names that Windows refuses or reads as others: a copy or a checkout there loses the file. */
export function checkPortableNames(
  context: SurveyContext,
  { mount, files, folders, path }: SurveyedFolder,
): void {
  const inside = folders.map((name) => (path === "" ? name : `${path}/${name}`));
  for (const one of [...files.map((file) => file.path), ...inside])
    if (!isPortableName(one.slice(one.lastIndexOf("/") + 1)))
      context.report(
        "name-not-portable",
        { mount, path: one },
        "Windows refuses its name, or reads it as another one: a copy there loses the file.",
        'Give it a name without <>:"|?*\\, without a dot or blank at its end, and other than that of a device, such as con.',
      );
}
