import type { Asker } from "../ask/ask.js";
import type { Case } from "../case.js";
import { type Sample, type SampleOptions, takeSample } from "../discover/sample.js";
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
import type { Pack } from "./pack.js";
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

/**
 * Makes the cases of some packs for what a site serves: the asker is asked for a look around first. Rejects when the site does
 * not answer at all.
 */
export async function makePackCases(
  names: readonly PackName[],
  asker: Asker,
  options: SampleOptions = {},
): Promise<Case[]> {
  const sample = await takeSample(asker, { ...options, everyLink: names.includes("links") });
  return names.flatMap((name) => makePack(name, sample, options.paths ?? []));
}

export function makePack(name: PackName, sample: Sample, paths: readonly string[]): Case[] {
  return PACKS[name](sample, paths).map((one) => ({ ...one, group: name }));
}
