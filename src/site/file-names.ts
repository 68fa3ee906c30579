import type { Answer } from "../core/answer/plan.js";
import type { SiteMount } from "./site.js";

type Mounts = readonly Pick<SiteMount, "at" | "source">[];

/** The file that answers, as the configuration names it: in the earlier release, if only that one has it. Undefined if none does. */
export function nameAnswer(mounts: Mounts, answer: Answer): string | undefined {
  if (answer.kind === "pass" || answer.file === undefined) return undefined;
  const { file, reason } = answer;
  const release = reason.code === "earlier-release" ? reason.subject : undefined;
  if (release === undefined) return nameFile(mounts, file);
  const { at } = findMount(mounts, file) ?? { at: "/" };
  return nameFile([{ at, source: release }], file);
}

/**
 * A file as the configuration names it: the folder that is written there, and the path inside. `file` is its address from the
 * site's root, not escaped and without a slash in front, as answers have it.
 */
export function nameFile(mounts: Mounts, file: string): string {
  const mount = findMount(mounts, file);
  if (mount === undefined) return file;
  const inside = mount.at === "/" ? file : file.slice(mount.at.length);
  return `${mount.source.replace(/\/+$/, "")}/${inside}`;
}

function findMount(mounts: Mounts, file: string): Mounts[number] | undefined {
  const above = mounts.filter(({ at }) => at === "/" || `/${file}`.startsWith(`${at}/`));
  return above.sort((a, b) => b.at.length - a.at.length)[0];
}
