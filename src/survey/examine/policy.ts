import { selectRules } from "../../core/rules/mount.js";
import { isProtected } from "../../core/rules/protect.js";
import type { SurveyContext } from "../survey-context.js";
import type { ReadFile } from "./read-file.js";

/** What a page does that no policy can allow: it stops working when its policy is sent. */
export async function checkPolicy(
  context: SurveyContext,
  { file, mediaType = "", start }: ReadFile,
): Promise<void> {
  const { protect } = selectRules(file.mount, file.path);
  if (protect === undefined || !isProtected(mediaType) || start.length < file.sizeBytes) return;
  for (const problem of (await protect.read(start, mediaType)).problems)
    context.report(
      "policy-does-not-cover",
      file,
      `Its policy does not cover it: ${problem}.`,
      "Change the page, or write protect: { policy: report-only } until it is.",
    );
}
