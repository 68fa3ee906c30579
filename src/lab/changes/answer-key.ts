import { type Answer, releasePlan } from "../../core/answer/plan.js";
import { nameAnswer } from "../../site/file-names.js";
import type { Site } from "../../site/site.js";

/** What counts of an answer when two are compared with each other. */
export interface Kept {
  /** 0 for what is passed on. */
  readonly status: number;
  /** The file that answers, as the configuration names it, or what else does; "" for nothing. */
  readonly by: string;
  /** The same as an address of the site: a folder that is written otherwise is no other file. */
  readonly file: string | undefined;
  /** What tells one content from another: tag, size and time. */
  readonly content: readonly [tag: string, size: string, modified: string];
  readonly location: string;
  /** The names that a listing has. */
  readonly listed: string;
  /** Fields by name, in lower case. */
  readonly fields: ReadonlyMap<string, string>;
}

/** Fields that differ by nature: lengths and tags go with the bytes, and these are compared with each other by file. */
const LEFT_OUT = new Set([
  "content-length",
  "etag",
  "last-modified",
  "date",
  "location",
  "content-range",
  "content-location",
  "link",
]);

const NOTHING: Kept = {
  status: 0,
  by: "",
  file: undefined,
  content: ["", "", ""],
  location: "",
  listed: "",
  fields: new Map(),
};

/** Keeps what counts of an answer, and releases it. */
export function keepAnswer(answer: Answer, { mounts }: Site): Kept {
  releasePlan(answer);
  if (answer.kind === "pass") return { ...NOTHING, by: "the application" };
  const { status, file, reason, fields, body } = answer;
  const isListing = reason.code === "listing";
  return {
    status,
    file,
    content: [
      fields.get("etag") ?? "",
      fields.get("content-length") ?? "",
      fields.get("last-modified") ?? "",
    ],
    by: nameAnswer(mounts, answer) ?? (isListing ? "a list of the folder" : ""),
    location: fields.get("location") ?? "",
    listed: isListing && body.kind === "bytes" ? new TextDecoder().decode(body.bytes) : "",
    fields: new Map(
      [...fields].flatMap(({ name, value }) => {
        const folded = name.toLowerCase();
        return LEFT_OUT.has(folded) ? [] : [[folded, value] as const];
      }),
    ),
  };
}
