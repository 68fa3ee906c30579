import type { CachingRule, FileRule } from "../core/rules/rules.js";
import { parseDuration } from "./durations.js";
import type { CachingConfig, PolicyConfig } from "./schema-files.js";

const YEAR_SECONDS = 31_536_000;

/** Compiles a caching rule to the field lines it stands for (RFC 9111 §5.2.2, RFC 5861, RFC 8246, RFC 9213). */
export function compileCaching({ policy, cdn }: CachingConfig, rule: FileRule): CachingRule {
  const fields = ["Cache-Control", formatPolicy(policy)];
  if (cdn !== undefined) fields.push("CDN-Cache-Control", formatPolicy(cdn));
  return {
    ...rule,
    fields,
    noTransform: typeof policy === "object" && policy.noTransform === true,
    lifetimeSeconds: lifetimeOf(policy),
  };
}

function lifetimeOf(policy: PolicyConfig): number {
  if (policy === "immutable") return YEAR_SECONDS;
  return typeof policy === "object" ? (parseDuration(policy.maxAge ?? 0) ?? 0) : 0;
}

function formatPolicy(policy: PolicyConfig): string {
  switch (policy) {
    case "immutable":
      return `public, max-age=${YEAR_SECONDS}, immutable`;
    case "revalidate":
      return "no-cache";
    case "no-store":
      return "no-store";
  }
  const directives: string[] = [];
  const timed = (name: string, duration: string | number | undefined): void => {
    if (duration !== undefined) directives.push(`${name}=${parseDuration(duration)}`);
  };
  if (policy.private) directives.push("private");
  timed("max-age", policy.maxAge);
  timed("s-maxage", policy.sharedMaxAge);
  timed("stale-while-revalidate", policy.staleWhileRevalidate);
  timed("stale-if-error", policy.staleIfError);
  if (policy.mustRevalidate) directives.push("must-revalidate");
  if (policy.immutable) directives.push("immutable");
  if (policy.noTransform) directives.push("no-transform");
  return directives.join(", ");
}
