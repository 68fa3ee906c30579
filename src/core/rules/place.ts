import type { Reason } from "../explain/reason.js";
import type { Trace } from "../explain/trace.js";
import type { SiteRequest } from "../request/request.js";
import { parseTarget, stripPrefix, type Target } from "../request/target.js";
import { sitePath } from "../text/path.js";
import { fail, type Result, succeed } from "../text/result.js";
import { type Mount, type MountedPath, selectRules } from "./mount.js";
import type { PrefixTree } from "./prefix-tree.js";
import type { Rules } from "./rules.js";

/** Where a request points: a path inside a mount, and the rules in force there. */
export interface Place extends MountedPath {
  readonly mounts: PrefixTree<Mount>;
  readonly target: Target;
  readonly rules: Rules;
}

/** True when a request for another path of the mount comes to the same mount, under the same rules. */
export function isSamePlace({ mounts, mount, rules }: Place, path: string): boolean {
  const full = sitePath(mount, path);
  return mounts.find(full)?.value === mount && selectRules(mount, path) === rules;
}

/** Why a request points nowhere: 400 for a target that cannot be read, 404 for one that no mount covers. */
export interface Nowhere {
  readonly status: 400 | 404;
  readonly reason: Reason;
  /** The path from the site's root and the target, of one that no mount covers. */
  readonly path?: string;
  readonly target?: Target;
}

/** The stages that need no file: target, mount, rules. */
export function findPlace(
  mounts: PrefixTree<Mount>,
  request: SiteRequest,
  trace: Trace | undefined,
): Result<Place, Nowhere> {
  const parsed = parseTarget(request.target);
  if (!parsed.ok) {
    trace?.push({ stage: "target", problem: parsed.problem });
    return fail({ status: 400, reason: { code: parsed.problem.code } });
  }
  const target = parsed.value;
  trace?.push({ stage: "target", target });
  const path = stripPrefix(target.path, request.strippedPrefix);
  if (path === undefined) {
    const reason: Reason = { code: "outside-stripped-prefix", subject: request.strippedPrefix! };
    return fail({ status: 404, reason });
  }
  return placePath(mounts, path, target, trace);
}

/** The place of a path from the site's root: in the mount with the longest prefix of it, on whole segments. */
export function placePath(
  mounts: PrefixTree<Mount>,
  path: string,
  target: Target,
  trace: Trace | undefined,
): Result<Place, Nowhere> {
  const match = mounts.find(path);
  if (match === undefined) {
    trace?.push({ stage: "mount", at: undefined, known: mounts.values().map(({ at }) => `/${at}`) });
    return fail({ status: 404, reason: { code: "outside-every-mount" }, path, target });
  }
  const mount = match.value;
  const inside = match.length === 0 ? path : path.slice(match.length + 1);
  trace?.push({ stage: "mount", at: `/${mount.at}`, source: mount.source.name, path: inside });
  return succeed({ mounts, mount, path: inside, target, rules: selectRules(mount, inside) });
}
