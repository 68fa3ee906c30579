import { SiteError } from "../../config/site-error.js";
import type { Position, TextProblem } from "../shapes.js";
import { findWritten } from "./written.js";

/** The sentences of an error about a text, each with the place in it that it is about. */
export function toTextProblems(
  error: unknown,
  file: string,
  locate: (path: readonly PropertyKey[]) => Position | undefined,
): TextProblem[] {
  const sentences = error instanceof SiteError ? error.problems : [String((error as Error).message)];
  return sentences.map((sentence) => toTextProblem(sentence, file, locate));
}

/** A sentence that may begin with the file, and with line and column or the path of a key behind it. */
export function toTextProblem(
  sentence: string,
  file: string,
  locate: (path: readonly PropertyKey[]) => Position | undefined,
): TextProblem {
  const text = sentence.startsWith(`${file}:`) ? sentence.slice(file.length + 1).trimStart() : sentence;
  const placed = /^(\d+):(\d+): (.*)$/s.exec(text);
  if (placed !== null)
    return { text: placed[3]!, at: { line: Number(placed[1]), column: Number(placed[2]) } };
  return { text, at: findWritten(text, { locate }) };
}

/** A position that is written as `line:column`. */
export function toPosition(written: string | undefined): Position | undefined {
  const [, line, column] = /^(\d+):(\d+)$/.exec(written ?? "") ?? [];
  return line === undefined ? undefined : { line: Number(line), column: Number(column) };
}
