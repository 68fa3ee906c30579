import { readJson } from "../reading/json.js";
import type { SurveyContext, SurveyedFile } from "./survey-context.js";
import { withholdLine } from "./walk.js";

/** Reports a source map that carries the sources themselves (ECMA-426 §5.2, sourcesContent). */
export function checkSourceMap(context: SurveyContext, file: SurveyedFile, bytes: Uint8Array): void {
  const read = readJson(new TextDecoder().decode(bytes));
  const contents = read.ok ? (read.value as { sourcesContent?: unknown } | null)?.sourcesContent : undefined;
  if (!Array.isArray(contents)) return;
  const count = contents.filter((one) => typeof one === "string").length;
  if (count === 0) return;
  context.report(
    "source-map",
    file,
    `It contains the whole source of ${count} ${count === 1 ? "file" : "files"}, comments and all.`,
    withholdLine("*.map"),
  );
}
