import type { Answer } from "../answer/plan.js";
import type { RequestHeaders, SiteRequest } from "../request/request.js";
import { Looks } from "../resolve/looks.js";
import { respond } from "../respond.js";
import type { CompiledSite } from "../site.js";
import type { OpenedFile } from "../source.js";
import { type KeptAnswers, READ_FIELDS, type ReadyAnswer, type RequestKey } from "./kept-answers.js";

/** A longer body is not kept, in bytes. */
const BODY_UP_TO = 1024 * 1024;

/** A file that changed less than this ago may change again without a sign, and its tag may still change; in milliseconds. */
const SETTLED_MS = 3000;

/** What answers are kept with: where, and how memory for a body is taken. */
export interface Keeping {
  readonly kept: KeptAnswers;
  readonly allocate: (length: number) => Uint8Array;
}

/**
 * Plans the response like `respond`, and keeps it with all that it depended on, where it can be given again: noted is which
 * fields of the request were read, and which names were looked at. The answer's body is bytes then, and no file.
 */
export async function respondAndKeep(
  site: CompiledSite,
  { kept, allocate }: Keeping,
  request: SiteRequest,
  key: RequestKey,
): Promise<Answer> {
  const reads = new Set<string>();
  const looks = new Looks();
  const headers = noteReads(request.headers, reads);
  const answer = await respond(site, { ...request, headers }, { looks });
  const fields = listReads(reads, request.headers);
  const nowMs = site.now();
  if (fields === undefined || !looks.isComplete || nowMs - looks.changedMs < SETTLED_MS) return answer;
  const ready = await makeReady(answer, allocate);
  if (ready === undefined) return answer;
  const { ownBytes } = ready;
  kept.keep(key, ready.answer, { reads: fields, looks: looks.all, ownBytes }, nowMs);
  return ready.answer;
}

async function makeReady(
  answer: Answer,
  allocate: Keeping["allocate"],
): Promise<{ readonly answer: ReadyAnswer; readonly ownBytes: number } | undefined> {
  if (answer.kind === "pass") return { answer, ownBytes: 0 };
  if (answer.status >= 500) return undefined;
  const { body } = answer;
  if (body.kind !== "file") {
    const ownBytes = body.kind === "bytes" ? body.bytes.length : 0;
    return { answer: { ...answer, body }, ownBytes };
  }
  const { file, parts } = body;
  const [only] = parts;
  const { sizeBytes } = file.metadata;
  if (parts.length !== 1 || only instanceof Uint8Array || only!.length !== sizeBytes) return undefined;
  if (file.bytes !== undefined) {
    file.close();
    return { answer: { ...answer, body: { kind: "bytes", bytes: file.bytes } }, ownBytes: 0 };
  }
  if (sizeBytes > BODY_UP_TO) return undefined;
  const own = allocate(sizeBytes);
  if (!(await fill(own, file))) return undefined;
  file.close();
  return { answer: { ...answer, body: { kind: "bytes", bytes: own } }, ownBytes: sizeBytes };
}

// False when it became shorter, or cannot be read: whoever carries the answer out finds that, too, and says so.
async function fill(own: Uint8Array, file: OpenedFile): Promise<boolean> {
  if (own.length === 0) return true;
  try {
    const bytes = await file.read(0, own.length, own);
    if (bytes.length !== own.length) return false;
    // A source that has its bytes at hand gives those.
    if (bytes !== own) own.set(bytes);
    return true;
  } catch {
    return false;
  }
}

function noteReads(headers: RequestHeaders, reads: Set<string>): RequestHeaders {
  return new Proxy(headers, {
    get(target, name) {
      if (typeof name === "string") reads.add(name);
      return target[name as string];
    },
  });
}

// Undefined when a field was read that is none of those that are compared, or that came in several lines.
function listReads(
  reads: ReadonlySet<string>,
  headers: RequestHeaders,
): (readonly [number, string | undefined])[] | undefined {
  const listed: (readonly [number, string | undefined])[] = [];
  for (const name of reads) {
    const field = READ_FIELDS.indexOf(name as (typeof READ_FIELDS)[number]);
    const value = headers[name];
    if (field < 0 || (value !== undefined && typeof value !== "string")) return undefined;
    listed.push([field, value]);
  }
  return listed.sort(([a], [b]) => a - b);
}
