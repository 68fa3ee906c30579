import type { Question, Reply } from "../ask/ask.js";
import type { FollowUpWritten } from "../format/follow-up-written.js";

/** The groups of a draft, in their order. */
export const DRAFT_GROUPS = [
  "documents",
  "redirects",
  "applications",
  "scripts and style sheets",
  "pictures and fonts",
  "sound and video",
  "data and downloads",
  "directory listings",
  "missing files",
  "what must never be served",
] as const;
export type DraftGroup = (typeof DRAFT_GROUPS)[number];

/** An answer that was seen, and what it is an example of. */
export interface Observed {
  readonly group: DraftGroup;
  readonly name: string;
  readonly question: Question;
  readonly reply: Reply;
  /** The base address that was asked, without a slash at its end. */
  readonly address: string;
  /** A pattern for all files like it, where their own names do not last. */
  readonly each?: string | undefined;
  /** A word to the reader. */
  readonly comment?: string | undefined;
  /** Follow-ups that a recording shows to work. */
  readonly shown?: readonly FollowUpWritten[];
  /** The content coding it came in, where a recording has it undone. */
  readonly coding?: string | undefined;
  /** True where a follow-up can be tried: for an answer that was asked for just now. */
  readonly live: boolean;
}
