import type { Answer } from "../core/answer/plan.js";
import { formatAttachment } from "../core/fields/disposition.js";
import type { CompiledSite } from "../core/site.js";

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
    throw new RangeError(`${found}, which is under no mount; the mounts are at ${mounts}.`);
  }
}
