import { findInEarlier } from "../reading/builds/other-bytes.js";
import type { SurveyContext, SurveyedFile } from "./survey-context.js";

/** Fingerprinted names that stood for other bytes in an earlier release of the mount. */
export async function checkReused(context: SurveyContext, files: readonly SurveyedFile[]): Promise<void> {
  for (const { mount, path, fingerprinted } of files) {
    if (mount.earlier === undefined || !fingerprinted) continue;
    const found = await mount.source.open(path);
    if (found.kind === "directory") found.directory.close();
    if (found.kind !== "file") continue;
    try {
      const where = await findInEarlier({ mount, path, file: found.file });
      if (where === undefined) continue;
      context.report(
        "fingerprint-reused",
        { mount, path },
        `It has other bytes than ${where}, although its name has a fingerprint: who has the old ones may keep them for as long as they were told.`,
        "Let the build make the name from the content, or remove the earlier file.",
      );
    } finally {
      found.file.close();
    }
  }
}
