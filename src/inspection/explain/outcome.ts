import type { Answer } from "../../core/answer/plan.js";
import type { Trace } from "../../core/explain/trace.js";
import { joinPath } from "../../core/text/path.js";
import { nameAnswer, nameFile } from "../../site/file-names.js";
import type { SiteMount } from "../../site/site.js";

/** The statuses that a site answers with, in the words of RFC 9110 §15. */
const PHRASES: Readonly<Record<number, string>> = {
  200: "OK",
  204: "No Content",
  206: "Partial Content",
  301: "Moved Permanently",
  302: "Found",
  304: "Not Modified",
  400: "Bad Request",
  403: "Forbidden",
  404: "Not Found",
  405: "Method Not Allowed",
  410: "Gone",
  412: "Precondition Failed",
  416: "Range Not Satisfiable",
  500: "Internal Server Error",
  503: "Service Unavailable",
};

/** A status of the site with its phrase: `404 Not Found`. */
export const formatStatus = (status: number): string => `${status} ${PHRASES[status] ?? ""}`.trimEnd();

export function describeStatus(answer: Answer): string {
  return answer.kind === "pass" ? "passed on" : formatStatus(answer.status);
}

/**
 * What answers, in words: the file as the configuration names it, where a redirect leads, or what is sent for an error, as far as the
 * trace tells.
 */
export function describeAnswer(answer: Answer, trace: Trace, given?: readonly SiteMount[]): string {
  if (answer.kind === "pass") return "the application behind the site";
  const mounts = given ?? findMounts(trace);
  const file = nameAnswer(mounts, answer);
  if (file !== undefined) return file;
  const location = answer.fields.get("location");
  if (location !== undefined) return `a redirect to ${location}`;
  if (answer.reason.code === "listing") return "a list of the directory's files";
  if (answer.status < 400 || trace.length === 0) return "no file";
  const page = trace.findLast((step) => step.stage === "candidate" && step.role === "error page");
  const at = mounts[0]?.at.slice(1) ?? "";
  return page?.stage === "candidate" && page.found === "file"
    ? `no file; ${nameFile(mounts, joinPath(at, page.path))} is sent for the error`
    : "no file; the built-in page is sent for the error";
}

function findMounts(trace: Trace): Pick<SiteMount, "at" | "source">[] {
  return trace
    .filter((step) => step.stage === "mount")
    .flatMap((step) => (step.at === undefined ? [] : [{ at: step.at, source: step.source }]));
}
