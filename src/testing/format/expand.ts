import { parseDuration } from "../../config/durations.js";
import { compilePattern } from "../../config/patterns.js";
import { SiteError } from "../../config/problems.js";
import { foldName } from "../../core/text/fold-name.js";
import type { ServedEntry } from "../../site/served-files.js";
import { escapePath, mergeFields, type Question } from "../ask/ask.js";
import type { Case } from "../case.js";
import { compileExpectation } from "../checks/expectation.js";
import { compileFollowUp } from "../checks/follow-ups.js";
import type { Expectations } from "./load.js";
import type { Expectation, WrittenCase, WrittenGroup } from "./schema.js";

/** Lists what the site serves, for `each`; undefined where no configuration says so. */
export type ListServed = () => Promise<readonly ServedEntry[]>;

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
  const expect = mergeExpectations(group?.expect, written.expect);
  const alsoAsk = written.alsoAsk ?? group?.alsoAsk ?? [];
  if (Object.keys(expect).length === 0 && alsoAsk.length === 0) {
    throw new SiteError([
      `${position}: found nothing that is expected; write expect: { status: 200 }, or alsoAsk: [revisit].`,
    ]);
  }
  const own = readRequest(written.request);
  const method = own.method ?? group?.request?.method ?? "GET";
  const headers = mergeFields(group?.request?.headers ?? {}, own.headers);
  const prefix = (group?.under ?? "").replace(/\/$/, "");
  const paths =
    written.each === undefined
      ? [own.path === "*" ? "*" : escapePath(prefix + own.path!)]
      : await findPaths(written, prefix, position, listServed);
  const timeout = written.timeout ?? group?.timeout;
  const shared = {
    group: group?.name,
    checks: compileExpectation(expect, folder),
    followUps: alsoAsk.map(compileFollowUp),
    position,
    reason: undefined,
    only: written.only ?? group?.only,
    retries: written.retries ?? group?.retries,
    timeoutMs: timeout === undefined ? undefined : parseDuration(timeout)! * 1000,
  };
  if (paths.length === 0) {
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
    const name = written.name ?? `each ${patterns}`;
    return [{ ...shared, name, question: { method, path: `${prefix}/`, headers }, unmet }];
  }
  return paths.map((path) => {
    const question: Question = { method, path, headers };
    const request = `${method} ${path}`;
    const name = written.name ?? request;
    return {
      ...shared,
      question,
      name: written.each !== undefined && written.name ? `${name}: ${path}` : name,
    };
  });
}

async function findPaths(
  { each, except }: WrittenCase,
  prefix: string,
  position: string,
  listServed: ListServed | undefined,
): Promise<string[]> {
  if (listServed === undefined) {
    throw new SiteError([
      `${position}: found each, which needs to know the files that are served; write config: epistyle.config.yaml in the file, or give --config FILE.`,
    ]);
  }
  const wanted = [each!].flat().map((one) => compilePattern(one).matches);
  const unwanted = [except ?? []].flat().map((one) => compilePattern(one).matches);
  const paths = (await listServed())
    .filter(({ kind, path }) => kind === "file" && path.startsWith(`${prefix}/`))
    .map(({ path }) => path)
    .filter((path) => {
      const folded = foldName(decodeURIComponent(path.slice(prefix.length + 1)));
      return wanted.some((matches) => matches(folded)) && !unwanted.some((matches) => matches(folded));
    });
  return paths;
}

/** Lays an expectation over another: fields by name, the rest by key. */
function mergeExpectations(shared: Expectation = {}, own: Expectation = {}): Expectation {
  const merged = { ...shared, ...own };
  if (shared.headers !== undefined && own.headers !== undefined) {
    const said = new Set(Object.keys(own.headers).map((name) => name.toLowerCase()));
    const rest = Object.entries(shared.headers).filter(([name]) => !said.has(name.toLowerCase()));
    merged.headers = { ...Object.fromEntries(rest), ...own.headers };
  }
  if (shared.body !== undefined && own.body !== undefined) merged.body = { ...shared.body, ...own.body };
  return merged;
}

function readRequest(written: WrittenCase["request"]): {
  method: string | undefined;
  path: string | undefined;
  headers: Record<string, string>;
} {
  if (typeof written !== "string")
    return { method: written?.method, path: written?.path, headers: written?.headers ?? {} };
  const [first, second] = written.split(" ");
  return second === undefined
    ? { method: undefined, path: first!, headers: {} }
    : { method: first!, path: second, headers: {} };
}
