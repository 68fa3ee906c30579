import { SiteError, type Told } from "../../config/site-error.js";
import type { TextProblem } from "../shapes.js";
import type { Locate } from "./open-subject.js";
import { findWritten } from "./written.js";

/** The sentences of an error about a text, each with the place in it that it is about. */
export function toTextProblems(error: unknown, locate: Locate): TextProblem[] {
  if (error instanceof SiteError) return error.told.map((one) => toTextProblem(one, locate));
  return [{ text: String((error as Error).message), at: undefined }];
}

/** What is told about a text, with its place: that of the key, or of what encloses it. */
export function toTextProblem({ text, key, at }: Told, locate: Locate): TextProblem {
  return { text, at: at ?? findWritten(key, { locate }, true) };
}
