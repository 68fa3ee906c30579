import type { SurveyContext, SurveyedFile } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** Reports a source map that carries the sources themselves (ECMA-426 §5.2, sourcesContent). */
export function checkSourceMap(context: SurveyContext, file: SurveyedFile, bytes: Uint8Array): void {
  let map: { sourcesContent?: unknown; sources?: unknown };
  try {
    map = JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    return;
  }
  if (typeof map !== "object" || map === null || !Array.isArray(map.sourcesContent)) return;
  const count = map.sourcesContent.filter((one) => typeof one === "string").length;
  if (count === 0) return;
  context.report(
    "source-map",
    file,
    `It contains the whole source of ${count} ${count === 1 ? "file" : "files"}, comments and all.`,
    withholdLine("*.map"),
  );
}
