import { compareText } from "../../core/text/compare-text.js";
import { formatCount } from "../../core/text/size.js";
import type { Site } from "../../site/site.js";
import type { Subject } from "../engine/subject.js";
import type { ChangeGroup, Changes, LookProgress } from "../shapes.js";
import { type Kept, keepAnswer } from "./answer-key.js";
import { ANYWHERE, findReach } from "./changed-rules.js";
import { type Difference, findDifferences, type Side } from "./kinds.js";
import { type ChangeQuestion, listQuestions, nameAddress, toQuestion } from "./questions.js";

/** How many addresses of a group are named. */
const NAMED_AT_MOST = 20;
/** How many questions are asked before others have their turn. */
const AT_A_TIME = 32;

interface Gathered {
  readonly difference: Difference;
  readonly addresses: Set<string>;
  readonly labels: string[];
}

/** Of many that are answered alike this many are asked; where they differ, all are. */
const ASKED_OF_MANY = 3;

export interface FindOptions {
  readonly signal?: AbortSignal;
  /** Takes nothing for known beforehand. */
  readonly asksAll?: boolean;
  /** Told again and again while addresses are asked. */
  readonly onProgress?: (progress: LookProgress) => void;
}

/**
 * What a change of configuration does: which addresses answer differently, and how, in groups. Every address of both sites is asked, and
 * typical ones that no file has; of those that are answered alike some. Rejects with the signal's reason when it is aborted.
 */
export async function findChanges(
  here: Subject,
  there: Subject,
  { signal, asksAll = false, onProgress }: FindOptions = {},
): Promise<Changes> {
  const reach = findReach(here.config, there.config);
  const { alike: classes, isSampled } =
    reach.by === "nothing"
      ? { alike: [], isSampled: false }
      : await listQuestions(here, there, asksAll ? ANYWHERE : reach);
  const gathering: Gathering = { groups: new Map(), changed: new Set(), told: new Set() };
  const total = classes.reduce((sum, { addresses }) => sum + addresses.length, 0);
  let done = 0;
  const ask = async (questions: readonly ChangeQuestion[]): Promise<Difference[][]> => {
    const all: Difference[][] = [];
    for (let at = 0; at < questions.length; at += AT_A_TIME) {
      signal?.throwIfAborted();
      const some = questions.slice(at, at + AT_A_TIME);
      const answers = await Promise.all(some.map((question) => askBoth(question, here.site, there.site)));
      for (const [a, b] of answers) all.push(findDifferences(a, b));
      done += some.length;
      onProgress?.({ done, total });
    }
    return all;
  };
  let asked = 0;
  // Those that stand alone are asked together.
  const single = classes
    .filter(({ addresses }) => addresses.length <= ASKED_OF_MANY)
    .flatMap((alike) => alike.addresses.map((address) => toQuestion(alike, address)));
  for (const [index, differences] of (await ask(single)).entries())
    gather(gathering, single[index]!, differences);
  asked += single.length;
  for (const alike of classes) {
    const { addresses } = alike;
    if (addresses.length <= ASKED_OF_MANY) continue;
    const toQuestions = (some: readonly string[]) => some.map((address) => toQuestion(alike, address));
    const found = await ask(toQuestions(addresses.slice(0, ASKED_OF_MANY)));
    const isAlike = new Set(found.map((one) => JSON.stringify(one.map(keyOf)))).size === 1;
    const rest = isAlike ? [] : await ask(toQuestions(addresses.slice(ASKED_OF_MANY)));
    asked += ASKED_OF_MANY + rest.length;
    if (isAlike) done += addresses.length - ASKED_OF_MANY;
    onProgress?.({ done, total });
    for (const [index, address] of addresses.entries())
      gather(gathering, toQuestion(alike, address), found[index] ?? rest[index - ASKED_OF_MANY] ?? found[0]!);
  }
  const { changed, groups } = gathering;
  return {
    sentence: tellChanges(changed.size, groups),
    asked,
    isSampled,
    changed: changed.size,
    groups: mergeValues([...groups.values()])
      .map(toGroup)
      .sort((a, b) => b.count - a.count || compareText(a.words + a.there, b.words + b.there)),
  };
}

async function askBoth({ request }: ChangeQuestion, here: Site, there: Site): Promise<[Kept, Kept]> {
  const [a, b] = await Promise.all([here.respond(request), there.respond(request)]);
  return [keepAnswer(a, here), keepAnswer(b, there)];
}

// Which file it is differs from one to the next; from what to what it changes is what they share.
function keyOf({ words, about, here, there }: Difference): string {
  return JSON.stringify([words[0], about, here.shared, there.shared]);
}

interface Gathering {
  readonly groups: Map<string, Gathered>;
  /** The addresses that change. */
  readonly changed: Set<string>;
  /** What is told of an address already: others who ask for it say nothing new. */
  readonly told: Set<string>;
}

function gather(
  { groups, changed, told }: Gathering,
  { address, label }: ChangeQuestion,
  differences: readonly Difference[],
): void {
  for (const difference of differences) {
    const once = `${difference.words[0]} ${address}`;
    if (told.has(once) || (difference.isWhole && changed.has(address))) continue;
    told.add(once);
    const key = keyOf(difference);
    const group = groups.get(key) ?? { difference, addresses: new Set(), labels: [] };
    groups.set(key, group);
    if (!group.addresses.has(address)) group.labels.push(label);
    group.addresses.add(address);
    changed.add(address);
  }
}

/** How many values are told of one kind of change; the groups of all others are one. */
const VALUES_AT_MOST = 12;

// What differs from file to file, such as a policy made of each page, would be a group for each of them.
function mergeValues(groups: readonly Gathered[]): Gathered[] {
  const kinds = new Map<string, Gathered[]>();
  for (const group of groups) {
    const kind = JSON.stringify([group.difference.words[0], group.difference.about]);
    const before = kinds.get(kind);
    if (before === undefined) kinds.set(kind, [group]);
    else before.push(group);
  }
  return [...kinds.values()].flatMap((all) => {
    if (all.length <= VALUES_AT_MOST) return all;
    const sorted = all.toSorted((a, b) => b.addresses.size - a.addresses.size);
    const rest = sorted.slice(VALUES_AT_MOST - 1);
    const sides = (side: "here" | "there"): Side => ({
      shared: tellSeveral(rest.map(({ difference }) => difference[side].shared)),
    });
    return [
      ...sorted.slice(0, VALUES_AT_MOST - 1),
      {
        difference: { ...rest[0]!.difference, here: sides("here"), there: sides("there") },
        addresses: new Set(rest.flatMap(({ addresses }) => [...addresses])),
        labels: rest.flatMap(({ labels }) => labels),
      },
    ];
  });
}

function tellSeveral(values: readonly string[]): string {
  const different = new Set(values);
  return different.size === 1 ? values[0]! : `${formatCount(different.size)} different values`;
}

function toGroup({ difference, addresses, labels }: Gathered): ChangeGroup {
  const { words, here, there } = difference;
  const count = addresses.size;
  // Of several answers by different files none is named.
  const tell = ({ shared, own = "" }: Side): string => (count === 1 ? shared + own : shared);
  return {
    words: words[count === 1 ? 0 : 1],
    count,
    here: tell(here),
    there: tell(there),
    examples: labels.slice(0, NAMED_AT_MOST).map(nameAddress),
  };
}

// The headline counts as the groups below it do; an address that changes in several ways is in several of them.
function tellChanges(changed: number, groups: ReadonlyMap<string, Gathered>): string {
  if (groups.size === 0) return "Nothing changes: every address answers as before.";
  const ways = new Map<string, { addresses: Set<string>; words: Difference["words"] }>();
  for (const { difference, addresses } of groups.values()) {
    const { words } = difference;
    const way = ways.get(words[0]) ?? { addresses: new Set(), words };
    ways.set(words[0], way);
    for (const address of addresses) way.addresses.add(address);
  }
  const told = [...ways.values()]
    .sort((a, b) => b.addresses.size - a.addresses.size || compareText(a.words[0], b.words[0]))
    .map(({ addresses: { size }, words }) => `${formatCount(size)} ${words[size === 1 ? 0 : 1]}`);
  return `${formatCount(changed)} ${changed === 1 ? "address changes" : "addresses change"}: ${joinWords(told)}.`;
}

function joinWords(words: readonly string[]): string {
  return words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}
