import { parseDuration } from "../../config/durations.js";
import { compilePattern } from "../../config/patterns.js";
import { SiteError } from "../../config/site-error.js";
import { foldName } from "../../core/text/fold-name.js";
import { unescapeText } from "../../core/text/unescape.js";
import type { Question } from "../ask/ask.js";
import type { Case } from "../case.js";
import { compileExpectation } from "../checks/expectation.js";
import { compileFollowUp } from "../checks/follow-ups.js";
import { compileFurther } from "../checks/further.js";
import type { Expectations } from "./load.js";
import { findVainException, mergeExpectations } from "./merge.js";
import { readRequests } from "./request.js";
import type { WrittenCase, WrittenGroup } from "./schema-case.js";
import { compileSteps } from "./steps.js";

/** An address that the site serves, escaped. */
export interface Listed {
  readonly kind: "file" | "directory";
  readonly path: string;
}

/** Lists what the site serves, for `each`; undefined where that cannot be known. */
export type ListServed = () => Promise<readonly Listed[]>;

/**
 * Makes the cases of an expectations file, in its order: settings of groups handed down, `each` spread over the files that are
 * served. Rejects with a SiteError that names file, line and column.
 */
export async function expandCases(
  expectations: Expectations,
  listServed: ListServed | undefined,
): Promise<Case[]> {
  const { written, folder } = expectations;
  const context: Surroundings = { folder, listServed };
  const cases: Case[] = [];
  for (const [index, one] of (written.cases ?? []).entries())
    cases.push(...(await expandCase(one, undefined, expectations.locate(["cases", index]), context)));
  for (const [g, group] of (written.groups ?? []).entries()) {
    for (const [index, one] of group.cases.entries())
      cases.push(
        ...(await expandCase(one, group, expectations.locate(["groups", g, "cases", index]), context)),
      );
  }
  return cases;
}

/** What cases are expanded with: the folder that their files are relative to, and the site's list of what it serves. */
interface Surroundings {
  readonly folder: string;
  readonly listServed: ListServed | undefined;
}

async function expandCase(
  written: WrittenCase,
  group: WrittenGroup | undefined,
  position: string,
  { folder, listServed }: Surroundings,
): Promise<Case[]> {
  const shared = compileShared(written, group, position, folder);
  const prefix = (group?.under ?? "").replace(/\/$/, "");
  const found =
    written.each === undefined ? undefined : await findPaths(written, prefix, position, listServed);
  const questions = readRequests(written.request, group, found);
  if (questions.length === 0) return [nothingMatches(written, shared, prefix)];
  return questions.map((question) => {
    const request = `${question.method} ${question.path}`;
    const name = written.name ?? request;
    const isOneOfMany = written.each !== undefined || questions.length > 1;
    return {
      ...shared,
      ...(question.ownSocket && { only: "over the network" as const }),
      question,
      name: isOneOfMany && written.name ? `${name}: ${question.path}` : name,
    };
  });
}

type Shared = Omit<Case, "name" | "question">;

function compileShared(
  written: WrittenCase,
  group: WrittenGroup | undefined,
  position: string,
  folder: string,
): Shared {
  const vain = findVainException(group?.expect, written.expect);
  if (vain !== undefined)
    throw new SiteError([
      `${position}: expect.except: found ${JSON.stringify(vain)}, which ${group === undefined ? "no group expects" : "the group does not expect"}; leave it out.`,
    ]);
  const expect = mergeExpectations(group?.expect, written.expect);
  const alsoAsk = written.alsoAsk ?? group?.alsoAsk ?? [];
  const steps = written.next ?? [];
  if (Object.keys(expect).length === 0 && alsoAsk.length === 0 && steps.length === 0) {
    throw new SiteError([
      `${position}: found no expectation; write expect: { status: 200 }, or alsoAsk: [revisit].`,
    ]);
  }
  const timeout = written.timeout ?? group?.timeout;
  return {
    group: group?.name,
    checks: compileExpectation(expect, folder),
    followUps: [
      ...compileFurther(expect),
      ...alsoAsk.map(compileFollowUp),
      ...compileSteps(steps, written.remember ?? {}, { folder, group }),
    ],
    position,
    reason: undefined,
    only: written.only ?? group?.only,
    retries: written.retries ?? group?.retries,
    timeoutMs: timeout === undefined ? undefined : parseDuration(timeout)! * 1000,
    ...(written.times !== undefined && { times: written.times, atOnce: written.atOnce ?? 1 }),
  };
}

function nothingMatches(written: WrittenCase, shared: Shared, prefix: string): Case {
  const patterns = [written.each ?? []]
    .flat()
    .map((one) => JSON.stringify(one))
    .join(", ");
  const where = prefix === "" ? "" : ` under ${prefix}`;
  const unmet = {
    about: "each",
    expected: `files that are served and match ${patterns}${where}`,
    got: 'none; a pattern is a name such as "*.html", or a path from the site\'s root such as "guide/**"',
    comparable: false,
  };
  const question: Question = { method: "GET", path: `${prefix}/`, headers: {} };
  return { ...shared, name: written.name ?? `each ${patterns}`, question, unmet };
}

async function findPaths(
  { each, except }: WrittenCase,
  prefix: string,
  position: string,
  listServed: ListServed | undefined,
): Promise<string[]> {
  if (listServed === undefined) {
    throw new SiteError([
      `${position}: found each, which needs to know the served files; write config: epistyle.config.yaml in the file, or give --config FILE.`,
    ]);
  }
  const wanted = [each!].flat().map((one) => compilePattern(one).matches);
  const unwanted = [except ?? []].flat().map((one) => compilePattern(one).matches);
  return (await listServed())
    .filter(({ kind, path }) => kind === "file" && path.startsWith(`${prefix}/`))
    .map(({ path }) => path)
    .filter((path) => {
      const folded = foldName(unescapeText(path.slice(prefix.length + 1)));
      return wanted.some((matches) => matches(folded)) && !unwanted.some((matches) => matches(folded));
    });
}
