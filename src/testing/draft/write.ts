import { Document, isMap, isSeq, type Node, visit, YAMLMap } from "yaml";
import { SiteError } from "../../config/site-error.js";
import { isCompressible } from "../../core/media-types/media-type.js";
import type { Asker, Question } from "../ask/ask.js";
import { readMediaType } from "../checks/content.js";
import { compileExpectation } from "../checks/expectation.js";
import { compileFollowUp } from "../checks/follow-ups.js";
import { kindOf } from "../discover/kind.js";
import type { Expectation } from "../format/expectation-types.js";
import type { FollowUpWritten } from "../format/follow-up-written.js";
import { isBad, runCases } from "../run.js";
import { describeObserved } from "./describe.js";
import { DRAFT_GROUPS, type DraftGroup, type Observed } from "./observed.js";

export interface DraftSource {
  /** What it was made from, in words, for the comment at its top. */
  readonly about: string;
  /** The configuration, as a path from the file's folder. */
  readonly config?: string | undefined;
  /** The address to ask, where there is no configuration. */
  readonly against?: string | undefined;
  /** The command that runs it, for the comment at its top. */
  readonly command: string;
  /** Whom to try follow-ups with; undefined leaves them out. */
  readonly asker?: Asker | undefined;
}

/** Writes an expectations file that what was observed meets: groups, what all of a group share said once, volatile things left out. */
export async function writeDraft(observed: readonly Observed[], source: DraftSource): Promise<string> {
  const groups = [];
  for (const name of DRAFT_GROUPS) {
    const own = withoutRepeats(observed.filter((one) => placeOf(one) === name));
    if (own.length > 0) groups.push(await draftGroup(name, own, source.asker));
  }
  if (groups.length === 0)
    throw new SiteError([
      `Found no address to write a case about in ${source.about}; name addresses with --path.`,
    ]);
  const content = {
    version: 1,
    ...(source.config !== undefined && { config: source.config }),
    ...(source.against !== undefined && { against: source.against }),
    groups,
  };
  const document = new Document(escapeVariables(content), { aliasDuplicateObjects: false });
  document.commentBefore = ` How ${source.about} answers: one example of each kind of answer.\n Change it to what it should answer, and run it with: ${source.command}\n For many files in one case, write each: "**/*.css" instead of request.`;
  format(document);
  return document.toString({ lineWidth: 110, flowCollectionPadding: true });
}

// A list and a document differ only in who wrote them; a list says so by naming what it varies by.
function placeOf({ group, question, reply }: Observed): DraftGroup {
  const isList =
    group === "documents" && question.path.endsWith("/") && reply.inside?.reason.code === "listing";
  return isList ? "directory listings" : group;
}

function withoutRepeats(observed: readonly Observed[]): Observed[] {
  const byQuestion = new Map<string, Observed>();
  const perKind = new Map<string, number>();
  for (const one of observed) {
    const key = `${one.question.method} ${one.question.path}`;
    // Of redirects, lists and folders one or two show how they behave.
    const kind =
      one.reply.status >= 300 && one.reply.status < 400
        ? one.name
        : one.name.startsWith("the folder ")
          ? "folder"
          : key;
    const before = perKind.get(kind) ?? 0;
    if (byQuestion.has(key) || before >= (kind === "folder" ? 2 : 1)) continue;
    perKind.set(kind, before + 1);
    byQuestion.set(key, one);
  }
  return [...byQuestion.values()];
}

interface Drafted extends Question {
  readonly each: string | undefined;
  readonly comment: string | undefined;
  readonly name: string;
  readonly expect: Expectation;
  readonly alsoAsk: readonly FollowUpWritten[];
}

async function draftGroup(
  name: DraftGroup,
  observed: readonly Observed[],
  asker: Asker | undefined,
): Promise<object> {
  const drafted: Drafted[] = [];
  for (const one of observed) drafted.push(await draftCase(one, asker));
  const shared = findShared(drafted.map(({ expect }) => expect));
  const headers = drafted.length < 2 ? undefined : sameOfAll(drafted.map((one) => one.headers));
  const sharedQuestions = sameOfAll(drafted.map(({ alsoAsk }) => alsoAsk));
  return {
    name,
    ...(headers !== undefined && Object.keys(headers).length > 0 && { request: { headers } }),
    ...(Object.keys(shared).length > 0 && { expect: shared }),
    ...(sharedQuestions !== undefined && sharedQuestions.length > 0 && { alsoAsk: sharedQuestions }),
    cases: drafted.map(({ name, method, path, expect, alsoAsk, ...one }) => {
      const own = withoutShared(expect, shared);
      const short = headers !== undefined || Object.keys(one.headers).length === 0;
      const request = short
        ? `${method} ${path}`
        : { ...(method !== "GET" && { method }), path, headers: { ...one.headers } };
      return {
        name,
        ...(one.comment !== undefined && { [COMMENT]: one.comment }),
        ...(one.each === undefined
          ? { request }
          : { each: one.each, ...(!short && { request: { headers: { ...one.headers } } }) }),
        ...(Object.keys(own).length > 0 && { expect: own }),
        ...(sharedQuestions === undefined && alsoAsk.length > 0 && { alsoAsk }),
      };
    }),
  };
}

async function draftCase(observed: Observed, asker: Asker | undefined): Promise<Drafted> {
  const { name, question, each, comment, shown = [] } = observed;
  const expect = describeObserved(observed);
  const alsoAsk = asker === undefined || !observed.live ? shown : await tryFollowUps(observed, expect, asker);
  return { name, each, comment, ...question, expect, alsoAsk };
}

/** Below this many bytes nothing is compressed, and no part is asked for. */
const WORTH_BYTES = 1024;

async function tryFollowUps(
  { name, question, reply }: Observed,
  expect: Expectation,
  asker: Asker,
): Promise<FollowUpWritten[]> {
  if (reply.status !== 200 || question.method !== "GET") return [];
  const kind = kindOf(reply);
  const large = reply.body.length >= WORTH_BYTES;
  const wanted: FollowUpWritten[] = ["revisit", "head"];
  if (large && ["sound", "film", "other"].includes(kind)) wanted.push("range");
  if (
    large &&
    isCompressible(readMediaType(reply.headers) ?? "") &&
    question.headers["Accept-Encoding"] === undefined
  )
    wanted.push("coding");
  const checks = compileExpectation(expect, ".");
  const cases = wanted.map((written) => ({
    name,
    group: undefined,
    question,
    checks,
    followUps: [compileFollowUp(written)],
    position: undefined,
    reason: undefined,
    only: undefined,
    retries: undefined,
    timeoutMs: undefined,
  }));
  const results = await runCases(cases, asker);
  return wanted.filter((_, index) => !isBad(results[index]!));
}

/** Where a comment stands until the document is made from values. */
const COMMENT = "#";

type Keyed = Record<string, unknown>;

/** What all of several expectations say; nothing where there is only one. */
function findShared(all: readonly Expectation[]): Expectation {
  if (all.length < 2) return {};
  const [first, ...rest] = all as readonly Keyed[];
  const isShared = (key: string): boolean => {
    const text = JSON.stringify(first![key]);
    return rest.every((one) => JSON.stringify(one[key]) === text);
  };
  return Object.fromEntries(Object.entries(first!).filter(([key]) => isShared(key)));
}

function withoutShared(expect: Expectation, shared: Expectation): Expectation {
  return Object.fromEntries(Object.entries(expect).filter(([key]) => !(key in shared)));
}

function sameOfAll<Value>(all: readonly Value[]): Value | undefined {
  const [first] = all;
  return all.every((one) => JSON.stringify(one) === JSON.stringify(first)) ? first : undefined;
}

// What looks like a variable would be taken for one when the file is read.
function escapeVariables(value: unknown): unknown {
  if (typeof value === "string") return value.replaceAll("${", () => `\${dollar}{`);
  if (Array.isArray(value)) return value.map(escapeVariables);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, escapeVariables(one)]));
}

// Short maps and lists of words stand on one line; groups are set apart.
function format(document: Document): void {
  visit(document, {
    Map(_, node) {
      const comment = node.get(COMMENT);
      if (comment !== undefined) {
        node.delete(COMMENT);
        node.commentBefore = ` ${comment}`;
      }
      if (isShort(node, 76)) node.flow = true;
    },
    Seq(_, node) {
      if (node.items.every((item) => !isMap(item)) && isShort(node, 60)) node.flow = true;
    },
    Pair(_, pair) {
      const key = String((pair.key as { value?: unknown }).value);
      if (key === "groups" || key === "cases") {
        (pair.key as Node).spaceBefore = key === "groups";
        if (isSeq(pair.value))
          for (const [index, item] of pair.value.items.entries())
            if (item instanceof YAMLMap && index > 0) item.spaceBefore = true;
      }
    },
  });
}

function isShort(node: Node, width: number): boolean {
  const value = (node as unknown as { toJSON(): unknown }).toJSON();
  const isFlat = typeof value === "object" && value !== null && !("name" in value) && !("version" in value);
  return isFlat && JSON.stringify(value).length <= width;
}
