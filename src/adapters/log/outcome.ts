import type { Answer } from "../../core/answer/plan.js";
import { mediaTypeOf } from "../../core/fields/content-type.js";
import { printable } from "../../core/text/printable.js";
import { nameAnswer } from "../../site/file-names.js";
import type { SiteMount } from "../../site/site.js";
import { describeCutOff } from "../delivery.js";
import type { ResponseRecord } from "../response-record.js";

/** The file that answered, or why none did, and how it was cut off, in one line. */
export function describeOutcome(
  { answer, delivery, why }: ResponseRecord,
  mounts: readonly SiteMount[],
): string {
  const told = tellAnswer(answer, why, mounts);
  const { cutOff } = delivery;
  return printable(cutOff === undefined ? told : `${told} (${describeCutOff(cutOff)})`);
}

function tellAnswer(answer: Answer, why: string, mounts: readonly SiteMount[]): string {
  if (answer.kind === "pass") return `passed on: ${why}`;
  const { fields, reason } = answer;
  const file = nameAnswer(mounts, answer);
  if (reason.code === "listing") return why;
  if (file !== undefined) {
    if (reason.code === "not-modified") return `${file} (the client's copy is current)`;
    return reason.code === "app-shell" || reason.code === "earlier-release" ? `${file} (${why})` : file;
  }
  const location = fields.get("location");
  if (location === undefined) return `none: ${why}`;
  const because = reason.code === "missing-slash" ? "a slash was missing" : why;
  return `redirect to ${location} (${because})`;
}

/** The media type of the answer, or a dash. */
export function tellMediaType({ answer }: ResponseRecord): string {
  const field = answer.kind === "pass" ? undefined : answer.fields.get("content-type");
  return field === undefined ? "-" : mediaTypeOf(field);
}

/** The request's target, for a log: without what its query says, where that is not to be kept. */
export function tellTarget({ request: { target } }: ResponseRecord, redactQuery: boolean): string {
  const query = target.indexOf("?");
  return redactQuery && query >= 0 ? `${target.slice(0, query)}?…` : target;
}
