import type { Answer } from "../../core/answer/plan.js";
import { releasePlan } from "../../core/answer/plan.js";
import { describeReason } from "../../core/explain/reason.js";
import { Memory } from "../../core/memory/memory.js";
import type { SiteRequest } from "../../core/request/request.js";
import { respond } from "../../core/respond.js";
import { PrefixTree } from "../../core/rules/prefix-tree.js";
import { type CompiledSite, openSiteMemory } from "../../core/site.js";
import type { FileSource } from "../../core/source.js";
import { describeAnswer, describeStatus } from "../../inspection/explain/outcome.js";
import type { SiteMount } from "../../site/site.js";
import type { Otherwise } from "../shapes.js";

/** How many files are thought away, one after another. */
const AT_MOST = 4;

/** What would answer without the file that does, and then without that one, until nothing is left. */
export async function findOtherwise(
  compiled: CompiledSite,
  request: SiteRequest,
  first: Answer,
  mounts: readonly SiteMount[],
): Promise<Otherwise[]> {
  const found: Otherwise[] = [];
  const hidden = new Set<string>();
  let answer = first;
  while (found.length < AT_MOST && answer.kind === "response" && answer.file !== undefined) {
    hidden.add(answer.file);
    const without = answer.file;
    answer = await respond(withoutFiles(compiled, hidden), request);
    releasePlan(answer);
    found.push({
      without,
      status: describeStatus(answer),
      answer: describeAnswer(answer, [], mounts),
      why: describeReason(answer.reason),
    });
  }
  return found;
}

function withoutFiles(site: CompiledSite, hidden: ReadonlySet<string>): CompiledSite {
  const mounts = new PrefixTree<ReturnType<typeof site.mounts.values>[number]>();
  for (const mount of site.mounts.values()) {
    const at = mount.at === "" ? "" : `${mount.at}/`;
    mounts.set(mount.at, { ...mount, source: hide(mount.source, (path) => hidden.has(at + path)) });
  }
  // Nothing that is remembered of the site itself is true of this one.
  return { ...site, mounts, remembered: openSiteMemory(new Memory()) };
}

function hide(source: FileSource, isHidden: (path: string) => boolean): FileSource {
  return {
    name: source.name,
    open: (path) => (isHidden(path) ? { kind: "missing", because: "no-such-file" } : source.open(path)),
    diagnose: (path) => source.diagnose(path),
  };
}
