import { formatCount } from "../../core/text/size.js";
import type { Site } from "../../site/site.js";
import type { ChangeGroup, Changes } from "../shapes.js";
import { type Kept, keepAnswer } from "./answer-key.js";
import { type Difference, findDifferences } from "./kinds.js";
import { type ChangeQuestion, listQuestions, nameAddress } from "./questions.js";

/** So many addresses of a group are named. */
const NAMED_AT_MOST = 20;
/** So many questions are asked before others have their turn. */
const AT_A_TIME = 32;

interface Gathered {
  readonly difference: Difference;
  readonly addresses: Set<string>;
  readonly labels: string[];
}

/**
 * What a change of configuration does: which addresses answer differently, and how, in groups. Every address of both sites is asked, and
 * typical ones that no file has. Rejects with the signal's reason when it is aborted.
 */
export async function findChanges(here: Site, there: Site, signal?: AbortSignal): Promise<Changes> {
  const questions = await listQuestions(here, there);
  const groups = new Map<string, Gathered>();
  const first = new Map<string, Difference>();
  const told = new Set<string>();
  for (let at = 0; at < questions.length; at += AT_A_TIME) {
    signal?.throwIfAborted();
    const some = questions.slice(at, at + AT_A_TIME);
    const answers = await Promise.all(some.map((question) => askBoth(question, here, there)));
    for (const [index, [a, b]] of answers.entries())
      gather({ groups, first, told }, some[index]!, findDifferences(a, b));
    if (at % 1024 === 0) await new Promise((resolve) => setTimeout(resolve));
  }
  return {
    sentence: tellChanges(first, groups),
    asked: questions.length,
    changed: first.size,
    groups: [...groups.values()].map(toGroup).sort((a, b) => b.count - a.count),
  };
}

async function askBoth({ request }: ChangeQuestion, here: Site, there: Site): Promise<[Kept, Kept]> {
  const [a, b] = await Promise.all([here.respond(request), there.respond(request)]);
  return [keepAnswer(a, here), keepAnswer(b, there)];
}

interface Gathering {
  readonly groups: Map<string, Gathered>;
  /** By address, what weighs most. */
  readonly first: Map<string, Difference>;
  /** What is told of an address already: others who ask for it say nothing new. */
  readonly told: Set<string>;
}

function gather(
  { groups, first, told }: Gathering,
  { address, label }: ChangeQuestion,
  differences: readonly Difference[],
): void {
  for (const difference of differences) {
    const { words, here, there } = difference;
    const once = `${words[0]} ${address}`;
    if (told.has(once)) continue;
    told.add(once);
    const key = JSON.stringify([words[0], here.replace(/, .*/, ""), there.replace(/, .*/, "")]);
    const group = groups.get(key) ?? { difference, addresses: new Set(), labels: [] };
    groups.set(key, group);
    if (!group.addresses.has(address)) group.labels.push(label);
    group.addresses.add(address);
    if (!first.has(address)) first.set(address, difference);
  }
}

function toGroup({ difference, addresses, labels }: Gathered): ChangeGroup {
  const { words, here, there } = difference;
  const count = addresses.size;
  // Answers by different files are told of one of them.
  const short = (text: string): string => (count === 1 ? text : text.replace(/^(\d{3} [\w ]+), .*/, "$1"));
  return {
    words: words[count === 1 ? 0 : 1],
    count,
    here: short(here),
    there: short(there),
    examples: labels.slice(0, NAMED_AT_MOST).map(nameAddress),
  };
}

// An address that changes in several ways counts once, by what weighs most.
function tellChanges(first: ReadonlyMap<string, Difference>, groups: ReadonlyMap<string, Gathered>): string {
  if (groups.size === 0) return "Nothing changes: every address answers as before.";
  const counts = new Map<string, { count: number; words: Difference["words"] }>();
  for (const { words } of first.values()) {
    const before = counts.get(words[0])?.count ?? 0;
    counts.set(words[0], { count: before + 1, words });
  }
  const told = [...counts.values()]
    .sort((a, b) => b.count - a.count)
    .map(({ count, words }) => `${formatCount(count)} ${words[count === 1 ? 0 : 1]}`);
  const total = first.size;
  return `${formatCount(total)} ${total === 1 ? "address changes" : "addresses change"}: ${joinWords(told)}.`;
}

function joinWords(words: readonly string[]): string {
  return words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}
