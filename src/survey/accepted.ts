import { readFile } from "node:fs/promises";
import { parseWritten, validateWritten } from "../config/document.js";
import { compilePattern } from "../config/patterns.js";
import { SiteError } from "../config/site-error.js";
import { acceptedSchema } from "./accepted-schema.js";
import type { Finding } from "./finding.js";

/** Known findings that are accepted. */
export interface Accepted {
  readonly code: string;
  /** A pattern of the files, from the mount's folder. */
  readonly files: string;
  readonly reason: string;
}

/** Reads a file of accepted findings (YAML or JSON). Rejects with a SiteError that says what is wrong, and where. */
export async function loadAccepted(file: string): Promise<readonly Accepted[]> {
  const text = await readFile(file, "utf8").catch((error: NodeJS.ErrnoException) => {
    const what = error.code === "ENOENT" ? "there is no such file" : `it cannot be read (${error.code})`;
    throw new SiteError([`--accept: ${file}: ${what}; write one, as docs/survey.md shows.`]);
  });
  return validateWritten(parseWritten(text, file), acceptedSchema).accept;
}

/** Removes accepted findings. Returns the others, how many were accepted, and the accepted entries that no longer occur. */
export function acceptKnown(
  findings: readonly Finding[],
  accepted: readonly Accepted[],
): { findings: Finding[]; accepted: number; gone: Accepted[] } {
  const compiled = accepted.map((one) => ({ one, matches: compilePattern(one.files).matches, used: false }));
  const kept = findings.filter(({ code, file, places }) => {
    const isAccepted = (path: string): boolean => {
      const found = compiled.find(
        ({ one, matches }) => one.code === code && (one.files === path || matches(path)),
      );
      if (found !== undefined) found.used = true;
      return found !== undefined;
    };
    // What several files name is accepted by its own path, or where all of them are.
    if (isAccepted(file)) return false;
    return places === undefined || !places.map((place) => isAccepted(place.file)).every(Boolean);
  });
  return {
    findings: kept,
    accepted: findings.length - kept.length,
    gone: compiled.filter(({ used }) => !used).map(({ one }) => one),
  };
}
