import { readFile } from "node:fs/promises";
import * as z from "zod";
import { parseWritten, validateWritten } from "../config/document.js";
import { SiteError } from "../config/site-error.js";
import { PACK_NAMES } from "./packs/names.js";
import { type CaseResult, isBad } from "./run.js";

/** A failure that is known and left as it is for now. */
export interface AcceptedFailure {
  /** The name of the case, with its group or pack before it; `*` stands for any text. */
  readonly case: string;
  /** What of it is known to differ; anything when not given. */
  readonly about?: string | readonly string[] | undefined;
  readonly reason: string;
}

export const acceptedFailuresSchema = z.strictObject({
  version: z.literal(1).describe("The version of this format: 1."),
  accept: z
    .array(
      z.strictObject({
        case: z.string().min(1).describe('The case, as "group: name"; a star stands for any text.'),
        about: z
          .union([z.string(), z.array(z.string()).min(1)])
          .optional()
          .describe("The known difference, such as Cache-Control; any other difference fails."),
        reason: z.string().min(1).describe("Why it is accepted."),
      }),
    )
    .describe("Known failures that are accepted."),
});

/** Reads a file of known failures (YAML or JSON). Rejects with a SiteError that says what is wrong, and where. */
export async function loadAcceptedFailures(file: string): Promise<readonly AcceptedFailure[]> {
  const text = await readFile(file, "utf8").catch((error: NodeJS.ErrnoException) => {
    const what = error.code === "ENOENT" ? "there is no such file" : `it cannot be read (${error.code})`;
    throw new SiteError([
      `--accept: ${file}: ${what}; write one with version: 1 and accept: [{ case: "group: name", reason: … }].`,
    ]);
  });
  return validateWritten(parseWritten(text, file), acceptedFailuresSchema).accept;
}

/** Tells known failures from others, and remembers which of the known occurred. */
export interface Baseline {
  /** The result, as `known` where it failed as it is known to. */
  judge(result: CaseResult): CaseResult;
  /** What is accepted and did not occur. What a pack is accepted for counts only if that pack ran. */
  listGone(): readonly AcceptedFailure[];
}

export function makeBaseline(accepted: readonly AcceptedFailure[]): Baseline {
  const entries = accepted.map((one) => ({ one, parts: one.case.split("*"), used: false }));
  const groups = new Set<string>();
  const ran = ({ one }: { one: AcceptedFailure }): boolean => {
    const [group = ""] = one.case.split(":");
    return !isPackName(group) || groups.has(group);
  };
  return {
    judge(result) {
      const { group, name } = result.case;
      if (group !== undefined) groups.add(group);
      if (!isBad(result)) return result;
      const title = group === undefined ? name : `${group}: ${name}`;
      const entry = entries.find(({ one, parts }) => holdsParts(title, parts) && coversAll(one, result));
      if (entry === undefined) return result;
      entry.used = true;
      return { ...result, outcome: "known", because: entry.one.reason };
    },
    listGone: () => entries.filter((entry) => !entry.used && ran(entry)).map(({ one }) => one),
  };
}

const isPackName = (group: string): boolean => (PACK_NAMES as readonly string[]).includes(group);

// Each part once, in order, the first at the start and the last at the end: one pass over the text.
function holdsParts(text: string, parts: readonly string[]): boolean {
  const [first = "", ...rest] = parts;
  if (rest.length === 0) return text === first;
  const last = rest.pop()!;
  if (!text.startsWith(first) || !text.endsWith(last) || text.length < first.length + last.length)
    return false;
  let at = first.length;
  for (const part of rest) {
    const found = text.indexOf(part, at);
    if (found < 0) return false;
    at = found + part.length;
  }
  return at <= text.length - last.length;
}

function coversAll({ about }: AcceptedFailure, { exchanges }: CaseResult): boolean {
  if (about === undefined) return true;
  const known = new Set([about].flat());
  return exchanges.every(
    ({ because, differences }) => because === undefined && differences.every((one) => known.has(one.about)),
  );
}
