import { checkPath } from "../config/found.js";
import type { Answer } from "../core/answer/plan.js";
import { formatAttachment } from "../core/fields/disposition.js";
import { lookAt } from "../core/resolve/look.js";
import { readNames } from "../core/resolve/read-directory.js";
import { withheldIn } from "../core/rules/mount.js";
import type { CompiledSite } from "../core/site.js";
import { suggestName } from "../core/text/suggest.js";

/** An answer with a file, made a download under a name. */
export function asDownload(answer: Answer, name: string): Answer {
  if (answer.kind === "pass" || answer.file === undefined || answer.status === 304) return answer;
  const fields = answer.fields.replace(
    "Content-Disposition",
    formatAttachment(name),
    "saveAs of the application's route",
  );
  return { ...answer, fields };
}

/** Throws a RangeError for a path that no file of the site can have. */
export function checkFilePath(path: string, site: CompiledSite): void {
  checkPath("The path of a file", path, '"/reports/season.pdf"');
  const found = `The path of a file: found ${JSON.stringify(path)}`;
  if (!path.startsWith("/"))
    throw new RangeError(`${found}; it starts at the site's root: write ${JSON.stringify(`/${path}`)}.`);
  if (path.endsWith("/") || /\/\/|\/\.{1,2}(\/|$)|[\\\0]/.test(path)) {
    throw new RangeError(
      `${found}; write the address of one file, not escaped, such as "/reports/season.pdf".`,
    );
  }
  if (site.mounts.find(path.slice(1)) === undefined) {
    const mounts = site.mounts
      .values()
      .map(({ at }) => `/${at}`)
      .join(", ");
    throw new RangeError(`${found}, which is not under any mount; the mounts are at ${mounts}.`);
  }
}

/** A warning where a file that a route names is not there, or never sent; undefined where it is. */
export async function warnOfMissing(path: string, site: CompiledSite): Promise<string | undefined> {
  const { value: mount, length } = site.mounts.find(path.slice(1))!;
  const inside = length === 0 ? path.slice(1) : path.slice(length + 2);
  const found = `The path of a file: found ${JSON.stringify(path)}`;
  const hidden = withheldIn(mount, inside);
  if (hidden !== undefined)
    return `${found}, which is withheld (${hidden}); a route for it would answer 404: name another file, or change the rule.`;
  const there = await lookAt(mount.source, inside);
  if (there === "file") return undefined;
  if (there === "directory")
    return `${found}, which is a folder of ${mount.source.name}; write the address of one file.`;
  const slash = inside.lastIndexOf("/") + 1;
  const names = (await readNames(mount, inside.slice(0, Math.max(0, slash - 1)))) ?? [];
  const near = suggestName(inside.slice(slash), names);
  const fix =
    near === undefined
      ? "build it, or write the path of an existing file"
      : `did you mean ${JSON.stringify(path.slice(0, path.lastIndexOf("/") + 1) + near)}?`;
  return `${found}, and ${mount.source.name} has no such file; ${fix}${fix.endsWith("?") ? "" : "."}`;
}
