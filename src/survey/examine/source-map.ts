import { readJson } from "../../reading/json.js";
import type { SurveyContext, SurveyedFile } from "../survey-context.js";
import { withholdLine } from "../walk.js";

/** Reports a source map that carries the sources themselves (ECMA-426 §5.2, sourcesContent). */
export function checkSourceMap(context: SurveyContext, file: SurveyedFile, text: string): void {
  const read = readJson(text);
  const contents = read.ok ? (read.value as { sourcesContent?: unknown } | null)?.sourcesContent : undefined;
  if (!Array.isArray(contents)) return;
  const count = contents.filter((one) => typeof one === "string").length;
  if (count === 0) return;
  context.report(
    "source-map",
    file,
    `It contains the whole source of ${count} ${count === 1 ? "file" : "files"}, comments and all.`,
    file.path.endsWith(".map") ? withholdLine("*.map") : "Build it without maps in the files themselves.",
  );
}

/** A map in the script or the style sheet itself (ECMA-426 §9). */
const INLINE = /[#@]\s{0,9}sourceMappingURL=data:application\/json[^,\n]{0,60};base64,([A-Za-z\d+/=]+)/g;

/** Reports a file that carries its map, with the sources in it. */
export function checkInlineMap(context: SurveyContext, file: SurveyedFile, text: string): void {
  if (!text.includes("sourceMappingURL=data:")) return;
  for (const [, encoded] of text.matchAll(INLINE))
    checkSourceMap(context, file, Buffer.from(encoded!, "base64").toString());
}
