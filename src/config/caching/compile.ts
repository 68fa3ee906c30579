import { Fields } from "../../core/fields/fields.js";
import type { CachingRule } from "../../core/rules/file-rules.js";
import type { RuleValues } from "../../core/rules/rules.js";
import { keyAt } from "../../core/text/origin.js";
import { asSaid, innermost } from "../compiler.js";
import { parseDuration } from "../durations.js";
import { compileFileRule, type Files } from "../patterns.js";

/** A policy as written: a word, or the parts of Cache-Control. */
export type Policy = "immutable" | "revalidate" | "no-store" | PolicyParts;

interface PolicyParts {
  readonly maxAge?: string | number | undefined;
  readonly sharedMaxAge?: string | number | undefined;
  readonly staleWhileRevalidate?: string | number | undefined;
  readonly staleIfError?: string | number | undefined;
  readonly mustRevalidate?: boolean | undefined;
  readonly immutable?: boolean | undefined;
  readonly private?: boolean | undefined;
  readonly noTransform?: boolean | undefined;
}

type CachingValue = readonly {
  readonly files: Files;
  readonly policy: Policy;
  readonly cdn?: Policy | undefined;
}[];

export const cachingCompiler = innermost({
  default: [],
  compile: (rules: CachingValue, where): readonly CachingRule[] =>
    rules.map((one, i) => {
      const rule = compileFileRule(one.files, where, `caching[${i}]`);
      const own = Fields.of(["Cache-Control", formatPolicy(one.policy), rule.label, rule.rule]);
      const { cdn } = one;
      return {
        ...rule,
        fields:
          cdn === undefined ? own : own.append("CDN-Cache-Control", formatPolicy(cdn), rule.label, rule.rule),
        noTransform: typeof one.policy === "object" && one.policy.noTransform === true,
        lifetimeSeconds: lifetimeOf(one.policy),
      };
    }),
});

const YEAR_SECONDS = 31_536_000;

// RFC 9111 §5.2.2, RFC 5861 (stale-…), RFC 8246 (immutable).
function formatPolicy(policy: Policy): string {
  switch (policy) {
    case "immutable":
      return `public, max-age=${YEAR_SECONDS}, immutable`;
    case "revalidate":
      return "no-cache";
    case "no-store":
      return "no-store";
  }
  const directives: string[] = [];
  const timed = (name: string, written: string | number | undefined): void => {
    if (written !== undefined) directives.push(`${name}=${parseDuration(written)}`);
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

function lifetimeOf(policy: Policy): number {
  if (policy === "immutable") return YEAR_SECONDS;
  return typeof policy === "object" ? (parseDuration(policy.maxAge ?? 0) ?? 0) : 0;
}

type NoVarySearchValue = boolean | readonly string[] | { readonly except: readonly string[] };

export const noVarySearchCompiler = innermost({
  default: false,
  compile: (given: NoVarySearchValue, where): Fields | undefined => {
    if (given === false) return undefined;
    const list = (names: readonly string[]): string => `(${names.map((one) => `"${one}"`).join(" ")})`;
    const value =
      given === true
        ? "params"
        : "except" in given
          ? `params, except=${list(given.except)}`
          : `params=${list(given)}`;
    return Fields.of(["No-Vary-Search", value, `${where.words}.noVarySearch`, keyAt(where, "noVarySearch")]);
  },
});

export const validatorsCompiler = asSaid<RuleValues["validators"]>("automatic");
