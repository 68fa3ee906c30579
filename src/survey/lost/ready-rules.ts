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
    if (now === undefined || folders.some(([from, to]) => isCovered(address, now.address, from, to)))
      continue;
    moved[address] = now.address;
  }
  return {
    moved: { ...Object.fromEntries(folders), ...moved },
    gone: lost
      .filter(({ now, isWithheld }) => now === undefined && !isWithheld)
      .map(({ address }) => address),
  };
}

const isCovered = (address: string, now: string, from: string, to: string): boolean =>
  address.startsWith(from) && now === to + address.slice(from.length);

// The outermost pair of folders of which each lost address below the old one is below the new one under the same name.
function findFolders(lost: readonly LostAddress[]): [from: string, to: string][] {
  const counts = new Map<string, { from: string; to: string; count: number }>();
  for (const { address, now } of lost)
    for (const [from, to] of now === undefined ? [] : commonEnds(address, now.address)) {
      const key = `${from} ${to}`;
      const known = counts.get(key);
      counts.set(key, { from, to, count: (known?.count ?? 0) + 1 });
    }
  const whole = [...counts.values()]
    .filter(
      ({ from, count }) =>
        count >= FOLDER_FROM && count === lost.filter(({ address }) => address.startsWith(from)).length,
    )
    .sort((a, b) => a.from.length - b.from.length);
  const chosen: [string, string][] = [];
  for (const { from, to } of whole)
    if (!chosen.some(([outer]) => from.startsWith(outer))) chosen.push([from, to]);
  return chosen;
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
