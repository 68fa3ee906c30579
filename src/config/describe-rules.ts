import type { RuleInForce } from "../core/explain/trace.js";
import type { Rules, RuleValues } from "../core/rules/rules.js";
import { RULE_NAMES, RULES } from "./rules.js";

/** The rules in force at a place as a person reads them: each with its value in words and where it is said. */
export function describeRules(values: RuleValues, origins: Rules["origins"]): RuleInForce[] {
  return RULE_NAMES.map((name) => {
    const explain = RULES[name].explain as (value: unknown) => string;
    const value = explain(values[name]);
    const origin = origins[name];
    return {
      name,
      value: value === "" ? "none" : value,
      origin: origin.words,
      by: origin.by,
      rule: origin.place,
    };
  });
}
