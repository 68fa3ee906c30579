import type { Question, Reply } from "../ask/ask.js";
import type { FieldDifference } from "./fields.js";

/** Two answers to the same question. */
export interface Pair {
  readonly question: Question;
  readonly here: Reply;
  readonly there: Reply;
}

/** What two answers to one question have in common, and what not. */
export interface Comparison {
  readonly question: Question;
  /** Undefined when both answered. */
  readonly unanswered:
    | { readonly here?: string | undefined; readonly there?: string | undefined }
    | undefined;
  readonly status: { readonly here: number; readonly there: number } | undefined;
  /** Both answer with an error. */
  readonly refused: boolean;
  readonly fields: readonly FieldDifference[];
  /** The contents in words, text from the line on in which it differs; undefined when they are the same. */
  readonly body: { readonly here: string; readonly there: string } | undefined;
  /** The likely reasons, in words; the most likely first. */
  readonly reasons: readonly string[];
}
