import { shortenStack } from "./short-stack.js";

/** One thing to fix, or to know, about a configuration. */
export interface Told {
  /** The sentence, with the key in front where it is about one. */
  readonly text: string;
  /** The key, as the sentence names it: `mounts[0].areas["/records"]`. */
  readonly key?: string | undefined;
  /** It is about single files, of which a survey tells each. */
  readonly isOfFiles?: boolean;
  /** Line and column in the file, both from 1. */
  readonly at?: { readonly line: number; readonly column: number } | undefined;
}

/** A configuration that cannot be used. The message holds one sentence a problem, a line each. */
export class SiteError extends Error {
  override readonly name = "SiteError";
  declare readonly problems: readonly string[];
  /** The problems, each with its place, and without the file that they are all about. */
  declare readonly told: readonly Told[];

  /** `file` is named in front of each problem, with its place. */
  constructor(problems: readonly (string | Told)[], file?: string) {
    const told = problems.map((one) => (typeof one === "string" ? { text: one } : one));
    const sentences = told.map((one) => (file === undefined ? one.text : nameFile(file, one)));
    super(sentences.join("\n"));
    // The message has them already.
    Object.defineProperty(this, "problems", { value: sentences, enumerable: false });
    Object.defineProperty(this, "told", { value: told, enumerable: false });
    shortenStack(this);
  }
}

function nameFile(file: string, { text, at }: Told): string {
  return `${file}${at === undefined ? "" : `:${at.line}:${at.column}`}: ${text}`;
}
