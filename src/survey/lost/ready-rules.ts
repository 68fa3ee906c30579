import { stringify } from "yaml";
import type { Guess } from "./guess.js";

/** An address that answered, and no longer does. */
export interface LostAddress {
  /** Escaped. */
  readonly address: string;
  /** Where the content probably is now. */
  readonly now: Guess | undefined;
  /** It is there, and a rule keeps it from visitors: nobody is told that it is gone for good. */
  readonly isWithheld?: boolean;
}

/** Rules that can be copied into the configuration. */
export interface ReadyRules {
  readonly moved: Readonly<Record<string, string>>;
  /** Old addresses without a likely new one: they are gone, or a person knows where they are. */
  readonly gone: readonly string[];
}

/** How many addresses of a folder that moved alike are one rule for the folder. */
const FOLDER_FROM = 3;

/** Writes the guesses as rules: where a whole folder moved, one for the folder. */
export function writeRules(lost: readonly LostAddress[]): ReadyRules {
  const moved: Record<string, string> = {};
  const folders = findFolders(lost);
  for (const { address, now } of lost) {
    if (now === undefined) continue;
    const from = foldersOf(address).find((folder) => folders.has(folder));
    const isCovered = from !== undefined && now.address === folders.get(from)! + address.slice(from.length);
    if (!isCovered) moved[address] = now.address;
  }
  return {
    moved: { ...Object.fromEntries(folders), ...moved },
    gone: lost
      .filter(({ now, isWithheld }) => now === undefined && !isWithheld)
      .map(({ address }) => address),
  };
}

// The outermost pair of folders of which each lost address below the old one is below the new one under the same name.
function findFolders(lost: readonly LostAddress[]): ReadonlyMap<string, string> {
  const below = new Map<string, number>();
  const pairs = new Map<string, { from: string; to: string; count: number }>();
  for (const { address, now } of lost) {
    for (const folder of foldersOf(address)) below.set(folder, (below.get(folder) ?? 0) + 1);
    for (const [from, to] of now === undefined ? [] : commonEnds(address, now.address)) {
      const key = `${from} ${to}`;
      const known = pairs.get(key);
      pairs.set(key, { from, to, count: (known?.count ?? 0) + 1 });
    }
  }
  const whole = [...pairs.values()]
    .filter(({ from, count }) => count >= FOLDER_FROM && count === below.get(from))
    .sort((a, b) => a.from.length - b.from.length);
  const chosen = new Map<string, string>();
  for (const { from, to } of whole)
    if (!foldersOf(from).some((outer) => chosen.has(outer))) chosen.set(from, to);
  return chosen;
}

// The folders that an address is below, but not the root.
function foldersOf(address: string): string[] {
  const folders: string[] = [];
  for (let slash = address.indexOf("/", 1); slash > 0; slash = address.indexOf("/", slash + 1))
    folders.push(address.slice(0, slash + 1));
  return folders;
}

// The pairs of folders behind which two addresses go on alike: /birds/a/b and /guide/a/b have /birds/ and /guide/, /birds/a/ and /guide/a/.
function commonEnds(old: string, now: string): [string, string][] {
  const pairs: [string, string][] = [];
  for (let slash = old.lastIndexOf("/"); slash > 0; slash = old.lastIndexOf("/", slash - 1)) {
    const rest = old.slice(slash + 1);
    if (!now.endsWith(`/${rest}`)) break;
    pairs.push([old.slice(0, slash + 1), now.slice(0, now.length - rest.length)]);
  }
  return pairs;
}

/** The rules as the lines of a configuration file (YAML); `""` when there is nothing to write. */
export function formatRules({ moved, gone }: ReadyRules): string {
  const written = {
    ...(Object.keys(moved).length > 0 && { moved }),
    ...(gone.length > 0 && { gone }),
  };
  return Object.keys(written).length === 0 ? "" : stringify(written, { lineWidth: 0 });
}
