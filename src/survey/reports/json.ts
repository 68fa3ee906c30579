import { printableJson } from "../../core/text/printable.js";
import type { Accepted } from "../accepted.js";
import type { Finding } from "../finding.js";
import type { Survey } from "../survey.js";

/** A survey after what is known was left out. */
export interface JudgedSurvey extends Omit<Survey, "findings"> {
  /** What was looked at, as the person named it. */
  readonly subject: string;
  readonly findings: readonly Finding[];
  /** How many findings were left out, because they are known. */
  readonly accepted: number;
  /** Accepted entries that no longer occur. */
  readonly gone: readonly Accepted[];
}

/** The survey for programs. */
export function reportJson({
  subject,
  files,
  folders,
  milliseconds,
  findings,
  accepted,
  gone,
}: JudgedSurvey): string {
  const told = { version: 1, subject, files, folders, milliseconds, findings, accepted, gone };
  return `${printableJson(told, 2)}\n`;
}
