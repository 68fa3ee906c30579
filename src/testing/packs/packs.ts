import { type Asker, NAVIGATION } from "../ask/ask.js";
import type { Case } from "../case.js";
import { type Sample, type SampleOptions, takeSample } from "../discover/sample.js";
import type { PackUse } from "../format/schema.js";
import { appShell } from "./app-shell.js";
import { caching } from "./caching.js";
import { codings } from "./codings.js";
import { conditional } from "./conditional.js";
import { content } from "./content.js";
import { delivery } from "./delivery.js";
import { exposure } from "./exposure.js";
import { framing } from "./framing.js";
import { head } from "./head.js";
import { links } from "./links.js";
import { listings } from "./listings.js";
import { methods } from "./methods.js";
import { missing } from "./missing.js";
import { moved } from "./moved.js";
import type { PackName } from "./names.js";
import { demand, get, makeCase, type Pack } from "./pack.js";
import { pathSafety } from "./path-safety.js";
import { protectedPages } from "./protected.js";
import { ranges } from "./ranges.js";
import { types } from "./types.js";
import { variants } from "./variants.js";

const PACKS: Readonly<Record<PackName, Pack>> = {
  framing,
  missing,
  links,
  moved,
  methods,
  types,
  conditional,
  ranges,
  codings,
  variants,
  head,
  caching,
  "app-shell": appShell,
  "path-safety": pathSafety,
  exposure,
  content,
  listings,
  protected: protectedPages,
  delivery,
};

/** What packs look over, and how. */
export interface Looking extends SampleOptions {
  readonly asker: Asker;
  /** Looks that were made: packs and files about the same addresses share one. */
  readonly looks?: Map<string, Promise<Sample>>;
}

/**
 * Makes the cases of some packs for what a site serves: the asker is asked for a look around first. Rejects when the site does
 * not answer at all.
 */
export async function makePackCases(uses: readonly PackUse[], looking: Looking): Promise<Case[]> {
  const { asker, looks = new Map<string, Promise<Sample>>(), ...options } = looking;
  const cases: Case[] = [];
  const everyLink = uses.some((use) => nameOf(use) === "links");
  let isTold = false;
  for (const use of uses) {
    const paths = [...(typeof use === "string" ? [] : (use.paths ?? [])), ...(options.paths ?? [])];
    const key = JSON.stringify([asker.about, everyLink, paths]);
    const look = looks.get(key) ?? takeSample(asker, { ...options, paths, everyLink });
    looks.set(key, look);
    const sample = await look;
    const nothing: readonly Case[] = isTold ? [] : findNothing(sample);
    isTold ||= nothing.length > 0;
    cases.push(...nothing, ...makePack(nameOf(use), sample, paths));
  }
  return cases;
}

const nameOf = (use: PackUse): PackName => (typeof use === "string" ? use : use.pack);

/** A site of which no address answers with a file: all that it does not do wrong says nothing. */
function findNothing({ resources, large, address, inProcess }: Sample): Case[] {
  if (resources.length > 0 || large.length > 0 || inProcess) return [];
  const check = demand("answer", "a file at this address, or at one that --path names", ({ reply }) =>
    reply.status < 300 && reply.body.length > 0 ? undefined : String(reply.status),
  );
  return [
    makeCase(
      `the site ${address} has something to look at`,
      get("/", { ...NAVIGATION }),
      [check],
      "no address answered with a file, so the other cases show nothing",
    ),
  ];
}

export function makePack(name: PackName, sample: Sample, paths: readonly string[]): Case[] {
  return PACKS[name](sample, paths).map((one) => ({ ...one, group: name }));
}
