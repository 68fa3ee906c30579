import { releasePlan } from "../../core/answer/plan.js";
import { formatPath } from "../../core/request/target.js";
import { type Guess, guessNew } from "./guess.js";
import { type LostAddress, type ReadyRules, writeRules } from "./ready-rules.js";
import { openRelease, type Release, type ReleaseFile } from "./release.js";

/** What a new release lost. */
export interface LostAddresses extends ReadyRules {
  readonly earlier: string;
  readonly current: string;
  readonly addresses: readonly LostAddress[];
}

/**
 * Finds the addresses that answered with a file in an earlier release, and do not in the current one; and, for each, the most likely new
 * address. Both are folders, seal files, configuration files, or releases that are open. Files with a fingerprint in their name are left
 * out: their names are new with each content. What a rule already leads on, or says is gone, is not lost.
 */
export async function findLost(earlier: string | Release, current: string | Release): Promise<LostAddresses> {
  const [before, now] = await Promise.all([earlier, current].map(toRelease));
  const lost: { address: string; file: ReleaseFile; isWithheld: boolean }[] = [];
  for (const file of before!.files.values()) {
    if (file.fingerprinted || isCompanion(file, before!)) continue;
    for (const address of await addressesOf(file, before!)) {
      const fate = await findFate(now!, address);
      if (fate !== "answers") lost.push({ address, file, isWithheld: fate === "withheld" });
    }
  }
  const guesses = await guessNew([...new Set(lost.map(({ file }) => file))], before!, now!);
  const addresses: LostAddress[] = [];
  for (const { address, file, isWithheld } of lost) {
    const guess = guesses.get(file);
    addresses.push({
      address,
      now: guess && { ...guess, address: await inSameForm(address, file, guess, now!) },
      ...(isWithheld && { isWithheld }),
    });
  }
  return { earlier: before!.name, current: now!.name, addresses, ...writeRules(addresses) };
}

const toRelease = async (one: string | Release): Promise<Release> =>
  typeof one === "string" ? openRelease(one) : one;

// A prebuilt coding or a source map belongs to another file.
function isCompanion({ address }: ReleaseFile, { files }: Release): boolean {
  return /\.(?:br|gz|zst|map)$/.test(address) && files.has(address.replace(/\.\w+$/, ""));
}

/** The addresses at which a file answers: its own, and its folder's or else the one without its extension. */
async function addressesOf({ address }: ReleaseFile, release: Release): Promise<string[]> {
  for (const shorter of [address.replace(/[^/]*$/, ""), address.replace(/\.[^./]*$/, "")])
    if (shorter !== address && (await fileAt(release, shorter)) === address) return [shorter, address];
  return [address];
}

/** The address of the file that answers there; undefined when none does. */
async function fileAt({ site }: Release, address: string): Promise<string | undefined> {
  const answer = await site.respond({ method: "HEAD", target: address, headers: { accept: "*/*" } });
  releasePlan(answer);
  return answer.kind === "response" && answer.status === 200 && answer.file !== undefined
    ? `/${formatPath(answer.file)}`
    : undefined;
}

/** How many redirects are followed. */
const HOPS = 5;
const ORIGIN = "http://site.invalid";

/** What an address has become. What is said to be gone answers, on purpose; a redirect answers if it leads to something that does. */
async function findFate({ site }: Release, address: string): Promise<"answers" | "withheld" | "absent"> {
  let target = address;
  for (let hop = 0; hop <= HOPS; hop++) {
    const answer = await site.respond({ method: "HEAD", target, headers: { accept: "*/*" } });
    releasePlan(answer);
    if (answer.kind !== "response") return "absent";
    if (answer.status >= 400 && answer.status !== 410)
      return answer.reason.code === "withheld" ? "withheld" : "absent";
    const location = answer.fields.get("Location");
    if (answer.status < 300 || answer.status === 410 || location === undefined) return "answers";
    const next = new URL(location, ORIGIN + target);
    if (next.origin !== ORIGIN) return "answers";
    target = next.pathname + next.search;
  }
  return "absent";
}

// Who knew the address without its extension, or the folder's, gets one of the same form.
async function inSameForm(
  old: string,
  { address }: ReleaseFile,
  guess: Guess,
  now: Release,
): Promise<string> {
  if (old === address) return guess.address;
  const short = old.endsWith("/")
    ? guess.address.replace(/[^/]*$/, "")
    : guess.address.replace(/\.[^./]*$/, "");
  return (await fileAt(now, short)) === guess.address ? short : guess.address;
}
