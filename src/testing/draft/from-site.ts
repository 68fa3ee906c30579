import type { Site } from "../../site/site.js";
import type { Asker } from "../ask/ask.js";
import { kindOf } from "../discover/kind.js";
import { describeObserved } from "./describe.js";
import { get, type Lead, leadsToNothing } from "./leads.js";
import { findByLinks } from "./leads-by-links.js";
import { findInTree } from "./leads-in-tree.js";
import { groupOfKind, isNeverMeant, NAME_CHANGES } from "./names.js";
import type { DraftGroup, Observed } from "./observed.js";

/** Asks about one example of each kind of thing that a site serves. Rejects when the site does not answer at all. */
export async function observeSite(
  asker: Asker,
  site: Site | undefined,
  paths: readonly string[],
): Promise<Observed[]> {
  const examples = site === undefined ? await findByLinks(asker, paths) : await findInTree(site);
  const leads = [
    ...paths.map((path): Lead => ({ group: "documents", name: path, question: get(path) })),
    ...examples,
    ...leadsToNothing(site),
  ];
  const observed: Observed[] = [];
  for (const lead of leads) {
    const reply = await asker.ask(lead.question);
    if (lead.wanted !== undefined && !lead.wanted(reply.status)) continue;
    const isFile = reply.status === 200 && !lead.question.path.endsWith("/");
    const kind = kindOf(reply);
    const group = isFile && !PLACED.has(lead.group) ? groupOfKind(kind) : lead.group;
    if (isNeverMeant(lead.question.path) && reply.status < 400) continue;
    const one: Observed = { ...lead, group, reply, address: asker.address, live: true };
    observed.push(lead.all === undefined ? one : await widen(one, lead.all, asker));
  }
  return observed;
}

const PLACED: ReadonlySet<DraftGroup> = new Set([
  "redirects",
  "applications",
  "missing files",
  "what must never be served",
]);

// One case for all files of a bundle, when all are answered alike.
async function widen(one: Observed, all: NonNullable<Lead["all"]>, asker: Asker): Promise<Observed> {
  const wide = { ...one, each: all.pattern };
  const wanted = JSON.stringify(describeObserved(wide));
  for (const path of all.paths) {
    const reply = await asker.ask({ ...one.question, path });
    if (JSON.stringify(describeObserved({ ...wide, reply })) !== wanted)
      return { ...one, comment: NAME_CHANGES };
  }
  return wide;
}
