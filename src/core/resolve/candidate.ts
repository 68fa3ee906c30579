import type { Reason } from "../explain/reason.js";
import type { CandidateRole, Trace } from "../explain/trace.js";
import type { SiteRequest } from "../request/request.js";
import type { Target } from "../request/target.js";
import { type ListingRules, type Mount, type Rules, selectRules } from "../rules/rules.js";
import type { FileSource, Found, OpenedFile } from "../source.js";

/** What the resolution works with: the request, understood, and the rules in force. */
export interface ResolutionContext {
  readonly request: SiteRequest;
  /** The target as the client sent it. */
  readonly target: Target;
  readonly mount: Mount;
  /** The path inside the mount. */
  readonly path: string;
  readonly rules: Rules;
  readonly trace: Trace | undefined;
}

/** What answers a path of a mount. */
export type Resolution =
  | { kind: "file"; path: string; file: OpenedFile; reason: Reason }
  | { kind: "listing"; path: string; rules: ListingRules }
  | { kind: "redirect"; location: string; reason: Reason }
  | { kind: "none"; status: 403 | 404 | 500 | 503; reason: Reason };

/** What came of trying one name. `error`: it is there and offered, and cannot be had. */
export type Candidate =
  | { kind: "file"; path: string; file: OpenedFile }
  | { kind: "directory"; reason: Reason }
  | { kind: "absent"; reason: Reason }
  | { kind: "error"; status: 403 | 500 | 503; reason: Reason };

/** Tries one name in the mount's source. A withheld name is never opened, and neither is what a link makes of it. */
export async function openCandidate(
  context: ResolutionContext,
  path: string,
  role: CandidateRole,
): Promise<Candidate> {
  const withheldBy = context.rules.withheldBy(path);
  const found: Found | "withheld" =
    withheldBy === undefined ? await context.mount.source.open(path) : "withheld";
  const candidate = found === "withheld" ? withheld(withheldBy!) : judge(context, path, found);
  if (context.trace !== undefined) await record(context.trace, context.mount.source, path, role, candidate);
  return candidate;
}

function judge(context: ResolutionContext, path: string, found: Found): Candidate {
  if ((found.kind === "file" || found.kind === "directory") && found.realPath !== undefined) {
    const hidden = selectRules(context.mount, found.realPath).withheldBy(found.realPath);
    if (hidden !== undefined) {
      if (found.kind === "file") found.file.close();
      return withheld(`its link leads to ${found.realPath}; ${hidden}`);
    }
  }
  return toCandidate(path, found);
}

function toCandidate(path: string, found: Found): Candidate {
  switch (found.kind) {
    case "file":
      return { kind: "file", path, file: found.file };
    case "directory":
      return { kind: "directory", reason: { code: "no-default-document" } };
    case "missing":
      return { kind: "absent", reason: { code: found.because } };
    case "special":
      return { kind: "absent", reason: { code: "special" } };
    case "forbidden":
      return { kind: "error", status: 403, reason: { code: "no-permission", subject: found.cause } };
    case "failed":
      return found.busy
        ? { kind: "error", status: 503, reason: { code: "busy", subject: found.cause } }
        : { kind: "error", status: 500, reason: { code: "failed", subject: found.cause } };
  }
}

function withheld(label: string): Candidate {
  return { kind: "absent", reason: { code: "withheld", subject: label } };
}

async function record(
  trace: Trace,
  source: FileSource,
  path: string,
  role: CandidateRole,
  candidate: Candidate,
): Promise<void> {
  const reason = candidate.kind === "file" ? undefined : candidate.reason;
  const diagnosis =
    reason === undefined || reason.code === "withheld" ? undefined : await source.diagnose(path);
  trace.push({ stage: "candidate", role, path, found: candidate.kind, reason, diagnosis });
}
