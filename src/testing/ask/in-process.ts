import { readPlan } from "../../adapters/in-process.js";
import { type Answer, releasePlan } from "../../core/answer/plan.js";
import { describeReason } from "../../core/explain/reason.js";
import type { Site } from "../../site/site.js";
import {
  type Asker,
  bodyLimit,
  describeTooLong,
  type FieldLine,
  IN_PROCESS_ADDRESS,
  type Reply,
} from "./ask.js";

const CONCURRENCY = 8;

/** Asks a site in this process: no port, the same code up to the last header. */
export function askSite(site: Site, about = "in process"): Asker {
  return {
    about,
    address: IN_PROCESS_ADDRESS,
    concurrency: CONCURRENCY,
    ask: async ({ method, path, headers, readAtMost }, { width } = {}) =>
      readReply(await site.respond({ method, target: path, headers }), method, { width, readAtMost }),
    explain: ({ method, path, headers }) => site.explain({ method, target: path, headers }),
    async close() {},
  };
}

interface ReadOptions {
  /** Questions in progress at a time. */
  readonly width?: number | undefined;
  /** A body that is longer is left unread, in bytes. */
  readonly readAtMost?: number | undefined;
}

/** Reads an answer to its end, as a client would. */
export async function readReply(
  answer: Answer,
  method: string,
  { width = CONCURRENCY, readAtMost }: ReadOptions = {},
): Promise<Reply> {
  const inside = {
    file: answer.kind === "pass" || answer.file === undefined ? undefined : `/${answer.file}`,
    passedOn: answer.kind === "pass",
    reason: answer.reason,
    why: describeReason(answer.reason),
  };
  // What is behind the site is not here: a server without one answers so.
  if (answer.kind === "pass") return { status: 404, headers: {}, body: new Uint8Array(0), inside };
  const lines = [...answer.fields].map(({ name, value }): FieldLine => [name, value]);
  const headers = joinFields(lines);
  const length = method === "HEAD" ? 0 : Number(headers["content-length"] ?? 0);
  if (length > Math.min(bodyLimit(width), readAtMost ?? Number.POSITIVE_INFINITY)) {
    releasePlan(answer);
    if (readAtMost === undefined) throw new Error(describeTooLong(width));
    return { status: answer.status, headers, body: new Uint8Array(0), isCut: true, lines, inside };
  }
  const body = await readPlan(answer);
  return {
    status: answer.status,
    headers,
    body: method === "HEAD" ? new Uint8Array(0) : body,
    lines,
    inside,
  };
}

/** Brings field lines together by lower-case name. No name is inherited: a server may send a field named constructor. */
export function joinFields(lines: Iterable<readonly [name: string, value: string]>): Record<string, string> {
  const fields: Record<string, string> = Object.create(null);
  for (const [written, value] of lines) {
    const name = written.toLowerCase();
    const before = fields[name];
    fields[name] = before === undefined ? value : `${before}, ${value}`;
  }
  return fields;
}
